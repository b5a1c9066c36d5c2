"""Textures that keep what is seen of surfaces at every pixel, to be shaded once for each."""

import moderngl

NAMES = (
    "at_position",
    "at_normal",
    "at_dx",
    "at_dy",
    "at_weight_a",
    "at_weight_b",
    "at_weight_c",
    "at_weight_d",
    "at_tint",
)
"""What can be kept, as the shaders have it."""

FIRST_UNIT = 14
"""Texture unit of the first of them."""


class Gathered:
    """Textures of one size, made when they are first needed; pictures of that size can share them.

    Parameters
    ----------
    context : moderngl.Context
    size : tuple of int
    """

    def __init__(self, context: moderngl.Context, size: tuple[int, int]) -> None:
        self._context = context
        self._size = size
        self._textures: dict[str, moderngl.Texture] = {}
        self._frames: dict[tuple[object, ...], moderngl.Framebuffer] = {}

    def frame(self, depth: moderngl.Texture, names: tuple[str, ...]) -> moderngl.Framebuffer:
        """What to draw into: some of the textures, and a depth texture of the same size."""
        key = (depth.glo, *names)
        if key not in self._frames:
            textures = [self.texture(name) for name in names]
            self._frames[key] = self._context.framebuffer(textures, depth)
        return self._frames[key]

    def number(self) -> moderngl.Framebuffer:
        """The texture that says which body is seen, to be cleared."""
        if ("number",) not in self._frames:
            self._frames["number",] = self._context.framebuffer([self.texture("at_normal")])
        return self._frames["number",]

    def texture(self, name: str) -> moderngl.Texture:
        """One of the textures."""
        if name not in self._textures:
            made = self._context.texture(self._size, 4, dtype="f4")
            made.filter = (moderngl.NEAREST, moderngl.NEAREST)
            self._textures[name] = made
        return self._textures[name]

    def use(self, names: tuple[str, ...]) -> dict[str, int]:
        """Bind some textures; the unit of each."""
        units = {name: FIRST_UNIT + i for i, name in enumerate(names)}
        for name, unit in units.items():
            self.texture(name).use(unit)
        return units

    def release(self) -> None:
        """Free everything."""
        for frame in self._frames.values():
            frame.release()
        for texture in self._textures.values():
            texture.release()
        self._frames.clear()
        self._textures.clear()


def kept_names(groups: int, tinted: bool) -> tuple[str, ...]:
    """What is kept of bodies with so many vectors of weights."""
    return (*NAMES[: 4 + groups], *(("at_tint",) if tinted else ()))
