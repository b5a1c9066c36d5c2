"""The shader programs of a renderer: compiled when they are first used, one for every way of drawing."""

import moderngl
import numpy as np

from hulmo.core.colour import srgb_to_linear
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.key import KEY
from hulmo.render.gpu_body import GpuBody
from hulmo.render.ground_textures import GroundTextures, uses_of
from hulmo.render.looks import Look
from hulmo.render.shaders import program


class Programs:
    """Compiles programs and keeps them.

    Parameters
    ----------
    context : moderngl.Context
    """

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._made: dict[tuple[object, ...], moderngl.Program] = {}
        self._covering: dict[int, moderngl.VertexArray] = {}
        self._screen: dict[str, tuple[moderngl.Program, moderngl.VertexArray]] = {}

    def named(self, name: str) -> moderngl.Program:
        """The program of `<name>.vert` and `<name>.frag`."""
        if (name,) not in self._made:
            self._made[name,] = program(self._context, f"{name}.vert", f"{name}.frag")
        return self._made[name,]

    def gather(self, body: GpuBody) -> moderngl.Program:
        """The program that keeps what is seen of a body's surface."""
        key = ("gather", body.groups, body.tinted, body.faces.faceted)
        if key not in self._made:
            self._made[key] = program(
                self._context, "surface.vert", "gather.frag", None, WEIGHTED=True, GROUPS=body.groups,
                MOST_GROUNDS=4 * body.groups, TINTED=body.tinted, FLAT_FACES=body.faces.faceted,
            )  # fmt: skip
        return self._made[key]

    def scene(
        self, look: Look, body: GpuBody, grounds: tuple[Ground, ...], banks: int, gathered: bool = False,
        hasty: bool = False,
    ) -> moderngl.Program:  # fmt: skip
        """The program that draws a body in a look, from so many pairs of texture arrays; what body and palette do not use is
        left out of it. With `gathered` it covers the screen and takes the surface as `gather` has kept it; with `hasty` it
        takes less time, and leaves fine detail out."""
        weighted = look.textured or look.weighted
        with_uv = by_uv(look, body, grounds)
        groups = body.groups if weighted else 0
        uses = uses_of(grounds) if look.textured else {}
        tinted = look.textured and body.tinted
        flat = body.faces.faceted and not gathered and look.fragment in ("form.frag", "ground.frag", "paint.frag")
        key = (look.name, groups, tinted, with_uv, banks, gathered, flat, hasty, *uses.values())
        if key not in self._made:
            self._made[key] = program(
                self._context,
                "screen.vert" if gathered else "surface.vert",
                look.fragment,
                ("uv.geom" if with_uv else look.geometry) or None,
                WEIGHTED=weighted,
                GROUPS=groups,
                MOST_GROUNDS=4 * max(groups, 1),
                TINTED=tinted,
                BY_UV=with_uv,
                HANDED=look.name == "hand",
                LOOK_GROUND=look.name == "ground",
                LOOK_NORMAL=look.name == "normals",
                LOOK_ROUGH=look.name == "roughness",
                LOOK_SHARE=look.name == "shares",
                BANKS=banks,
                LOOK_MESH=look.geometry == "mesh.geom",
                LOOK_STRETCH=look.geometry == "stretch.geom",
                LOOK_COARSE=look.geometry == "coarse.geom",
                LOOK_VIEWS=look.name == "views",
                CURVED=look.curved,
                GATHERED=gathered,
                FLAT_FACES=flat,
                HASTY=hasty,
                **uses,
            )
        return self._made[key]

    def covering(self, made: moderngl.Program) -> moderngl.VertexArray:
        """What covers the screen with a program."""
        if made.glo not in self._covering:
            self._covering[made.glo] = self._context.vertex_array(made, [])
        return self._covering[made.glo]

    def screen(self, name: str, fragment: str, **switches: bool) -> tuple[moderngl.Program, moderngl.VertexArray]:
        """A program that covers the screen, with the array to draw."""
        if name not in self._screen:
            made = program(self._context, "screen.vert", fragment, None, **switches)
            self._screen[name] = (made, self._context.vertex_array(made, []))
        return self._screen[name]


def by_uv(look: Look, body: GpuBody, grounds: tuple[Ground, ...]) -> bool:
    """Whether a look of a body needs its texture coordinates: itself, or for a ground that lies along them."""
    return body.faces.has_uv and (look.by_uv or (look.textured and any(ground.mapping == "uv" for ground in grounds)))


def tell_grounds(scene: moderngl.Program, textures: GroundTextures) -> None:
    """Give a scene program the values of all grounds."""
    arrays = {
        **textures.values,
        "key": srgb_to_linear(np.array(KEY)).astype(np.float32),
    }
    if "density" in scene:
        arrays["density"] = textures.density()
    for name, values in arrays.items():
        member = scene.get(name, None)
        if isinstance(member, moderngl.Uniform):
            member.write(np.ascontiguousarray(values[: member.array_length], np.float32).tobytes())
