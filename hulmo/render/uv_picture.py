"""A picture of the plane of texture coordinates: charts, what is chosen of them, and what lies under them."""

from dataclasses import dataclass, field

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.render.looks import TEAL_RUST
from hulmo.render.shaders import program, set_uniforms

Uv = NDArray[np.float32]
Marks = NDArray[np.bool_]
Image = NDArray[np.uint8]

WASH = ((0.12, 0.36, 0.40, 0.22), (0.05, 0.55, 0.62, 0.55), (0.80, 0.30, 0.12, 0.42), (0.85, 0.45, 0.12, 0.70))
LINES = ((0.06, 0.16, 0.17, 0.55), (0.02, 0.30, 0.34, 1.0), (0.45, 0.12, 0.04, 0.65), (0.35, 0.10, 0.02, 1.0))
RIM = ((0.05, 0.12, 0.13, 1.0),) * 4
"""Colours of triangles, of their edges and of the rims of charts: plain, chosen, mirrored, both."""

OPEN = 5.0
"""Pixels of an edge below which edges grow faint."""

FAR = 50.0
"""Units from 0 to which what lies under the charts is drawn."""


@dataclass(frozen=True)
class UvShown:
    """What is drawn of a body.

    Attributes
    ----------
    uv : (K, 3, 2) float32
        v runs down.
    faces : (K,) bool
        Chosen.
    mirrored : (K,) bool
    edges : (K, 3) bool
        Chosen, by the corner across.
    rims : (K, 3) bool
        At the rim of a chart.
    points : (P, 2) float32
        Chosen corners.
    goes : (K, 3) bool
        Corners that go along with a drag.
    """

    uv: Uv
    faces: Marks
    mirrored: Marks
    edges: Marks
    rims: Marks
    points: Uv = field(default_factory=lambda: np.empty((0, 2), np.float32))
    goes: Marks = field(default_factory=lambda: np.empty((0, 3), np.bool_))


class UvPicture:
    """Draws in a context of its own; whoever has another makes that current again before he draws.

    Parameters
    ----------
    context : moderngl.Context
    """

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        context.__enter__()
        self._charts = program(context, "uv_sheet.vert", "uv_sheet.frag")
        self._below = program(context, "uv_under.vert", "uv_under.frag")
        square = np.array([[-FAR, -FAR], [FAR, -FAR], [-FAR, FAR], [FAR, FAR]], np.float32)
        self._square = context.vertex_array(self._below, [(context.buffer(square.tobytes()), "2f4", "in_uv")])
        self._parts: dict[str, tuple[moderngl.Buffer, moderngl.VertexArray, int]] = {}
        self._image: moderngl.Texture | None = None
        self._frame: tuple[moderngl.Framebuffer, moderngl.Framebuffer] | None = None
        self._edge = 0.0

    def show(self, shown: UvShown | None) -> None:
        """What is drawn from now on."""
        self._context.__enter__()
        for buffer, array, _ in self._parts.values():
            array.release()
            buffer.release()
        self._parts = {}
        if shown is None or not shown.uv.size:
            return
        uv = shown.uv
        goes = shown.goes if shown.goes.size else np.zeros(uv.shape[:2], np.bool_)
        state = shown.faces.astype(np.float32) + 2.0 * shown.mirrored
        self._put("faces", _rows(uv.reshape(-1, 2), np.repeat(state, 3), goes.reshape(-1)))
        ends = np.array([(1, 2), (2, 0), (0, 1)])
        for name, mask, mark in (
            ("edges", np.ones(uv.shape[:2], np.bool_), None), ("rims", shown.rims, None),
            ("chosen", shown.edges, np.ones(1)),
        ):  # fmt: skip
            face, corner = np.nonzero(mask)
            at = ends[corner]
            lines = uv[face[:, None], at].reshape(-1, 2)
            kind = np.repeat(state[face], 2) if mark is None else np.ones(lines.shape[0])
            self._put(name, _rows(lines, kind, goes[face[:, None], at].reshape(-1)))
        self._put("points", _rows(shown.points, np.ones(len(shown.points)), np.ones(len(shown.points))))
        step = np.linalg.norm(uv[:, 1] - uv[:, 0], axis=1)
        self._edge = float(np.median(step)) if step.size else 0.0

    def put_under(self, image: Image | None) -> None:
        """(H, W, 3) image that lies under the charts; None for none."""
        self._context.__enter__()
        if self._image is not None:
            self._image.release()
            self._image = None
        if image is not None:
            self._image = self._context.texture(
                (image.shape[1], image.shape[0]), 3, np.ascontiguousarray(image).tobytes(), alignment=1
            )
            self._image.build_mipmaps()
            self._image.anisotropy = 4.0

    def picture(
        self, size: tuple[int, int], scale: float, left: float, top: float, kind: int, squares: int,
        drag: NDArray[np.float64],
    ) -> Image:  # fmt: skip
        """(H, W, 3) the picture.

        Parameters
        ----------
        size : tuple of int
            Pixels, width and height.
        scale : float
            Pixels to a unit.
        left, top : float
            Coordinates at the upper left corner.
        kind : int
            Under the charts: 0 nothing, 1 counted squares, 2 the image.
        squares : int
            To a unit.
        drag : (3, 3) float64
            What is done to corners that go along.
        """
        self._context.__enter__()
        frame, flat = self._frames(size)
        frame.use()
        view = (
            2 * scale / size[0],
            -2 * scale / size[1],
            -1 - 2 * left * scale / size[0],
            1 + 2 * top * scale / size[1],
        )
        if kind == 2 and self._image is not None:
            self._image.use(0)
        self._context.enable_only(moderngl.NOTHING)
        set_uniforms(
            self._below, view=view, kind=kind if kind != 2 or self._image is not None else 0, squares=float(squares), image=0,
            ramp=list(TEAL_RUST),
        )  # fmt: skip
        self._square.render(moderngl.TRIANGLE_STRIP)
        self._context.enable_only(moderngl.BLEND | moderngl.PROGRAM_POINT_SIZE)
        self._context.blend_func = moderngl.SRC_ALPHA, moderngl.ONE_MINUS_SRC_ALPHA
        set_uniforms(self._charts, view=view, drag=tuple(np.asarray(drag, np.float64).T.reshape(-1).tolist()))
        faint = min(1.0, self._edge * scale / OPEN)
        for name, shades, mode in (
            ("faces", WASH, moderngl.TRIANGLES), ("edges", _fainter(LINES, faint), moderngl.LINES),
            ("rims", RIM, moderngl.LINES), ("chosen", LINES, moderngl.LINES), ("points", RIM, moderngl.POINTS),
        ):  # fmt: skip
            if name in self._parts and (name != "edges" or faint > 0.08):
                set_uniforms(self._charts, shades=list(shades))
                self._parts[name][1].render(mode)
        self._context.enable_only(moderngl.NOTHING)
        self._context.copy_framebuffer(flat, frame)
        data = flat.read(components=3, alignment=1)
        return np.frombuffer(data, np.uint8).reshape(size[1], size[0], 3)[::-1]

    def release(self) -> None:
        """Free everything, the context too."""
        self._context.release()

    def _put(self, name: str, rows: NDArray[np.float32]) -> None:
        if rows.size:
            buffer = self._context.buffer(rows.tobytes())
            array = self._context.vertex_array(self._charts, [(buffer, "2f4 1f4 1f4", "in_uv", "in_state", "in_goes")])
            self._parts[name] = buffer, array, rows.shape[0]

    def _frames(self, size: tuple[int, int]) -> tuple[moderngl.Framebuffer, moderngl.Framebuffer]:
        if self._frame is None or self._frame[0].size != size:
            if self._frame is not None:
                for frame in self._frame:
                    frame.release()
            smooth = self._context.framebuffer([self._context.renderbuffer(size, 3, samples=4)])
            self._frame = smooth, self._context.framebuffer([self._context.renderbuffer(size, 3)])
        return self._frame


def _fainter(shades: tuple[tuple[float, float, float, float], ...], share: float) -> list[tuple[float, ...]]:
    return [(*shade[:3], shade[3] * share) for shade in shades]


def _rows(uv: Uv, state: NDArray[np.floating], goes: NDArray[np.generic]) -> NDArray[np.float32]:
    out = np.empty((uv.shape[0], 4), np.float32)
    out[:, :2], out[:, 2], out[:, 3] = uv, state, goes
    return out
