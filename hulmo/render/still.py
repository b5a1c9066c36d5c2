"""Still pictures of a project, with no display."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from types import TracebackType

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from PIL.PngImagePlugin import PngInfo

from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.mesh.body import Bounds
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project, free_name
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.looks import LOOKS, SHARES
from hulmo.render.part import Part
from hulmo.render.renderer import Renderer, reach_of
from hulmo.render.targets import Targets
from hulmo.render.view import View

SMALLEST_SIDE, LARGEST_SIDE = 16, 16384

PIECE = 3072
"""Samples to a side of the pieces that a large picture is drawn in."""

TALLEST = 16384
"""Samples that a picture has from top to bottom at the most."""

NOWHERE = 65535
"""Step of a depth image where nothing stands."""

MOST_KNOWN = 1 << 26
"""Pixels of a picture beside which channels are kept at the most."""

BRIGHTEST = 65504.0
"""Of what half precision holds."""

TEXTURED = tuple(look.name for look in LOOKS.values() if look.textured)


@dataclass(frozen=True)
class Still:
    """A picture and how far away all of it is.

    Attributes
    ----------
    picture : Image
        RGB, 8 bits.
    depth : (H, W) float32
        Metres ahead of the eye, of what is nearest in a pixel; infinite where nothing stands.
    channels : mapping
        What else is known of its pixels, if that was asked for; see `Stills.take`.
    """

    picture: Image.Image
    depth: NDArray[np.float32]
    channels: Mapping[str, NDArray[np.floating] | NDArray[np.uint32]] = field(default_factory=dict)

    def depth_image(self) -> tuple[Image.Image, PngInfo, float]:
        """Depth in 16 bits of grey, what a PNG says of it, and metres to a step; `NOWHERE` stands for nothing."""
        there = np.isfinite(self.depth)
        step = float(self.depth[there].max()) / (NOWHERE - 1) if there.any() else 1.0
        grey = np.full(self.depth.shape, NOWHERE, np.uint16)
        grey[there] = np.rint(self.depth[there].astype(np.float64) / step).astype(np.uint16)
        told = PngInfo()
        told.add_text("Description", f"metres ahead of the eye: value x {step:.9g}; {NOWHERE} where nothing stands")
        return Image.fromarray(grey), told, step


class Stills:
    """Draws as many pictures of one project as are wanted. To be used in a `with`.

    It makes an OpenGL context of its own the current one; whoever has another has to make that current again.

    Parameters
    ----------
    project : Project
    look : str
        A name of `hulmo.render.looks.LOOKS`.

    Raises
    ------
    InvalidInput
        Unknown look.
    FileProblem
        A texture of the palette cannot be read.
    """

    def __init__(self, project: Project, look: str = "lit") -> None:
        if look not in LOOKS:
            raise InvalidInput(f"there is no look {look!r}; known are {', '.join(LOOKS)}")
        self._project, self._look = project, look
        self._context = headless_context()
        try:
            self._renderer = Renderer(self._context, project)
            if look in TEXTURED:
                self._check_textures()
        except BaseException:
            self._context.release()
            raise

    def __enter__(self) -> "Stills":
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, at: TracebackType | None) -> None:
        self._context.release()

    @property
    def bounds(self) -> Bounds:
        """Extent of all bodies."""
        return self._renderer.bounds()

    def camera(self, view: str = "") -> Camera:
        """Of a viewpoint by name; empty for the first one, or for a view of everything where there is none.

        Raises
        ------
        InvalidInput
            Unknown viewpoint.
        """
        names = _names(self._project, view)
        bounds = self._renderer.bounds()
        if not names:
            return Camera.framing(bounds)
        return Camera.from_viewpoint(self._project.viewpoints[names.index(view) if view else 0], bounds)

    def take(
        self,
        camera: Camera,
        size: tuple[int, int],
        smooth: int = 2,
        progress: Progress | None = None,
        channels: bool = False,
    ) -> Still:
        """One picture, drawn in pieces where it is large.

        Parameters
        ----------
        camera : Camera
        size : tuple of int
            Width and height in pixels, 16 to 16,384 each.
        smooth : int
            Samples along each side of a pixel, 1 to 8; fewer where a picture would be taller than 16,384 of them.
        progress : Progress, optional
        channels : bool
            Whether channels are wanted: R, G, B (linear light with exposure), Z (as `Still.depth`), N.X, N.Y, N.Z (normals
            with the normal maps: east, up, south), water (share of the pixel in which it is nearest), prop.number (in the
            middle of the pixel; 0 for none, otherwise counted from 1 through the lists of all bodies) and ground.NAME (shares
            after blending). Normals, numbers and shares are of what is solid, seen through water; 0 where nothing is.

        Raises
        ------
        InvalidInput
            An impossible size.
        FileProblem
            Channels are wanted, and a texture cannot be read.
        """
        _check_size(size)
        if channels:
            self._check_channels(size)
        progress, renderer = progress or silent(), self._renderer
        smooth = max(1, min(smooth, 8, TALLEST // size[1]))
        view = renderer.view(camera.clipped(reach_of(renderer.bounds(), self._project.objects, False)), self._look)
        renderer.shadow(view)
        width, height = size
        picture, depth = np.empty((height, width, 3), np.uint8), np.empty((height, width), np.float32)
        known = self._empty(size) if channels else {}
        large = (width * smooth, height * smooth)
        # round each piece what contact shading looks at
        margin = 0 if max(large) <= PIECE else -(-int(view.contact_share() * large[1] + 2) // smooth)
        inner = max(PIECE // smooth - 2 * margin, margin)
        pieces = [(x, y) for y in range(0, height, inner) for x in range(0, width, inner)]
        side = (inner + 2 * margin) * smooth
        wide = [Part((x - margin) * smooth, (y - margin) * smooth, side, side) for x, y in pieces]
        if len(pieces) == 1:
            wide = [Part.whole(large)]
        targets = Targets(self._context, (wide[0].width, wide[0].height))
        try:
            for done, (x, y) in enumerate(pieces):
                progress.step(done / len(pieces), "drawing the picture")
                renderer.piece(targets, view, wide[done], large, channels)
                across, down = min(inner, width - x), min(inner, height - y)
                upper = targets.size[1] - (margin + down) * smooth  # arrays begin with the highest row
                inside = (
                    slice(upper, upper + down * smooth),
                    slice(margin * smooth, (margin + across) * smooth),
                )
                there = slice(height - y - down, height - y), slice(x, x + across)
                parts = _samples(targets.pixels()[inside], smooth)
                picture[there] = np.rint(parts.mean(axis=(1, 3), dtype=np.float32))
                away = targets.distances(view.camera.near, view.camera.far)[inside]
                depth[there] = _samples(away, smooth).min(axis=(1, 3))
                if channels:
                    self._fill(known, there, targets, view, wide[done], large, inside, smooth, away)
        finally:
            targets.release()
        if channels:
            known["Z"] = depth
        return Still(Image.fromarray(picture), depth, known)

    def _check_channels(self, size: tuple[int, int]) -> None:
        if size[0] * size[1] > MOST_KNOWN:
            raise InvalidInput(
                f"size {size[0]}x{size[1]}: with channels a picture may have {MOST_KNOWN:,} pixels; make it smaller"
            )
        self._check_textures()

    def _check_textures(self) -> None:
        for _ in self._renderer.made_textures():
            pass
        if self._renderer.problems:
            raise FileProblem("; ".join(self._renderer.problems))

    def _empty(self, size: tuple[int, int]) -> dict[str, NDArray[np.floating] | NDArray[np.uint32]]:
        shape = (size[1], size[0])
        names = ["R", "G", "B", "N.X", "N.Y", "N.Z", "water", *self._ground_channels()]
        return {
            **{name: np.zeros(shape, np.float16) for name in names},
            "prop.number": np.zeros(shape, np.uint32),
        }

    def _ground_channels(self) -> list[str]:
        out: list[str] = []
        for name in self._project.ground_names:  # points part names of layers from those of channels
            out.append(free_name(f"ground.{name.replace('.', '_')}", out))
        return out

    def _fill(
        self, known: dict[str, NDArray[np.floating] | NDArray[np.uint32]], there: tuple[slice, slice], targets: Targets,
        view: View, piece: Part, large: tuple[int, int], inside: tuple[slice, slice], smooth: int, away: NDArray[np.float32],
    ) -> None:  # fmt: skip
        light = _samples(targets.light()[inside], smooth).mean(axis=(1, 3))
        for k, name in enumerate("RGB"):
            known[name][there] = np.minimum(light[..., k], BRIGHTEST)
        renderer = self._renderer
        renderer.figures(targets, replace(view, look=LOOKS["normals"], values={}), piece, large)
        found = targets.figures()[inside]
        solid = targets.distances(view.camera.near, view.camera.far)[inside]
        known["water"][there] = _samples(away < solid * (1 - 1e-5), smooth).mean(axis=(1, 3))
        here = np.isfinite(solid)
        normal = _samples(np.where(here[..., None], found[..., :3] * 2.0 - 1.0, 0.0), smooth).sum(axis=(1, 3))
        normal /= np.maximum(np.linalg.norm(normal, axis=2, keepdims=True), 1e-6)
        for k, name in enumerate("XYZ"):
            known[f"N.{name}"][there] = normal[..., k]
        middle = smooth // 2
        number = np.where(here, np.rint(found[..., 3]) - 1.0, 0.0)[middle::smooth, middle::smooth]
        known["prop.number"][there] = np.maximum(number, 0.0)
        names = self._ground_channels()
        for first in range(0, len(names), 4):
            renderer.figures(targets, replace(view, look=SHARES, values={}, ground=first), piece, large)
            share = _samples(np.where(here[..., None], targets.figures()[inside], 0.0), smooth).mean(axis=(1, 3))
            for k, name in enumerate(names[first : first + 4]):
                known[name][there] = share[..., k]


def _samples(values: NDArray[np.generic], smooth: int) -> NDArray[np.generic]:
    # (H, S, W, S, ...) of (H S, W S, ...)
    height, width = values.shape[:2]
    return values.reshape(height // smooth, smooth, width // smooth, smooth, *values.shape[2:])


def still(project: Project, size: tuple[int, int], look: str = "lit", view: str = "", smooth: int = 2) -> Image.Image:
    """One picture of a project; see `Stills`."""
    _check_size(size)  # before there is a context
    _names(project, view)
    with Stills(project, look) as stills:
        return stills.take(stills.camera(view), size, smooth).picture


def _check_size(size: tuple[int, int]) -> None:
    if not all(SMALLEST_SIDE <= side <= LARGEST_SIDE for side in size):
        raise InvalidInput(
            f"size {size[0]}x{size[1]}: both sides must lie between {SMALLEST_SIDE} and {LARGEST_SIDE:,} pixels"
        )


def _names(project: Project, view: str) -> list[str]:
    # of all viewpoints; refused where a wanted one is not among them
    names = [viewpoint.name for viewpoint in project.viewpoints]
    if view and view not in names:
        raise InvalidInput(f"there is no viewpoint {view!r}; the project has {', '.join(names) or 'none'}")
    return names
