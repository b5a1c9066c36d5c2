"""Grounds shaded at places of a surface, off any picture: what the canvas draws there, without light."""

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.bake.surface import Surface
from hulmo.core.errors import FileProblem
from hulmo.core.ground.ground import LEAST_DEPTH
from hulmo.core.project import Project
from hulmo.render.gathered import Gathered, kept_names
from hulmo.render.gpu_body import ground_groups
from hulmo.render.ground_textures import MOST_BANKS, GroundTextures, uses_of
from hulmo.render.programs import tell_grounds
from hulmo.render.shaders import program, set_uniforms

SIDE = 1024
"""Places to a line of the textures that hold them."""

FIRST_UNIT = 4


class GroundShader:
    """Answers many queries about one palette.

    Parameters
    ----------
    context : moderngl.Context
    project : Project
    tinted : bool
        Whether the body has a tint.
    by_uv : bool
        Whether places come with where they lie along texture coordinates.

    Raises
    ------
    FileProblem
        A texture of the palette cannot be read.
    """

    def __init__(self, context: moderngl.Context, project: Project, tinted: bool, by_uv: bool = False) -> None:
        self._context, self._project, self._tinted, self._by_uv = context, project, tinted, by_uv
        self._textures = GroundTextures(context, project.grounds, project.textures)
        if self._textures.problems:
            raise FileProblem("; ".join(self._textures.problems))
        self._groups = ground_groups(len(project.grounds))
        self._program = program(
            context, "screen.vert", "ground.frag", None, WEIGHTED=True, GROUPS=self._groups,
            MOST_GROUNDS=4 * self._groups, TINTED=tinted, BANKS=len(self._textures.banks), GATHERED=True, LOOK_BAKE=True,
            UV_KEPT=by_uv,
            **uses_of(project.grounds),
        )  # fmt: skip
        self._array = context.vertex_array(self._program, [])
        size = (SIDE, SIDE)
        self._gathered = Gathered(context, size)
        self._out = [context.texture(size, 4, dtype="f4") for _ in range(2)]
        self._frame = context.framebuffer(self._out)

    @property
    def most(self) -> int:
        """Places that can be asked for at once."""
        return SIDE * SIDE

    def shade(self, surface: Surface) -> tuple[NDArray[np.float32], ...]:
        """(K, 3) base colour in linear light, (K,) roughness, and (K, 3) normals with the normal maps of the grounds.

        Parameters
        ----------
        surface : Surface
            `most` places at the most.
        """
        count = surface.count
        lines = max(1, -(-count // SIDE))
        self._send("at_position", surface.position, lines)
        ones = np.ones((count, 1), np.float32)
        self._send("at_normal", np.concatenate((surface.normal, ones), axis=1), lines)
        dx, dy = surface.dx, surface.dy
        if self._by_uv:
            along = np.zeros((count, 6), np.float32) if surface.along is None else surface.along
            self._send("at_uv", along[:, :4], lines)
            dx, dy = np.column_stack((dx, along[:, 4])), np.column_stack((dy, along[:, 5]))
        self._send("at_dx", dx, lines)
        self._send("at_dy", dy, lines)
        for group, name in enumerate("abcd"[: self._groups]):
            self._send(f"at_weight_{name}", surface.weight[:, 4 * group : 4 * group + 4], lines)
        if self._tinted and surface.tint is not None:
            self._send("at_tint", surface.tint, lines)
        for i, (colour, detail) in enumerate(self._textures.banks):
            colour.use(FIRST_UNIT + 2 * i)
            detail.use(FIRST_UNIT + 2 * i + 1)
        tell_grounds(self._program, self._textures)
        blend = self._project.blend
        set_uniforms(
            self._program,
            **self._gathered.use(kept_names(self._groups, self._tinted, self._by_uv)),
            **{f"colour_height_{i}": FIRST_UNIT + 2 * i for i in range(MOST_BANKS)},
            **{f"normal_rough_{i}": FIRST_UNIT + 2 * i + 1 for i in range(MOST_BANKS)},
            grounds=len(self._project.grounds),
            depth=max(blend.depth, LEAST_DEPTH) if blend.mode == "height" else 0.0,
            number=1.0,
            sectioned=0,
            hatch=0,
            backs=0,
        )
        self._frame.use()
        self._frame.viewport = (0, 0, SIDE, lines)
        self._context.enable_only(moderngl.NOTHING)
        self._array.render(moderngl.TRIANGLES, vertices=3)
        first, second = (self._read(number, count, lines) for number in range(2))
        return first[:, :3], first[:, 3], second[:, :3]

    def release(self) -> None:
        """Free everything."""
        self._textures.release()
        self._gathered.release()
        self._frame.release()
        self._array.release()
        self._program.release()
        for texture in self._out:
            texture.release()

    def _send(self, name: str, values: NDArray[np.float32], lines: int) -> None:
        filled = np.zeros((lines * SIDE, 4), np.float32)
        filled[: values.shape[0], : values.shape[1]] = values
        self._gathered.texture(name).write(filled, viewport=(0, 0, SIDE, lines))

    def _read(self, number: int, count: int, lines: int) -> NDArray[np.float32]:
        out = np.empty((lines * SIDE, 4), np.float32)
        self._frame.read_into(out, (0, 0, SIDE, lines), components=4, attachment=number, alignment=1, dtype="f4")
        return out[:count]
