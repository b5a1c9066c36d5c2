"""A finished picture onto the screen, with stair-steps softened."""

import moderngl

from hulmo.render.part import Part
from hulmo.render.programs import Programs
from hulmo.render.shaders import set_uniforms
from hulmo.render.targets import Targets


class OntoScreen:
    """Puts pictures into framebuffers. One that is smaller is softened as it is, where there are fewer pixels, and stretched.

    Parameters
    ----------
    context : moderngl.Context
    programs : Programs
    """

    def __init__(self, context: moderngl.Context, programs: Programs) -> None:
        self._context, self._programs = context, programs
        self._soft: tuple[moderngl.Texture, moderngl.Framebuffer] | None = None

    def put(self, targets: Targets, framebuffer: moderngl.Framebuffer, part: Part | None = None) -> None:
        """Put the finished picture, or a part of it, into a framebuffer, stretched to fit."""
        if targets.size == framebuffer.size:
            self._draw(targets.result_texture, framebuffer, part, False)
            return
        if self._soft is None or self._soft[0].size != targets.size:
            for item in self._soft or ():
                item.release()
            texture = self._context.texture(targets.size, 4)
            texture.repeat_x = texture.repeat_y = False
            self._soft = texture, self._context.framebuffer([texture])
        soft, frame = self._soft
        self._draw(targets.result_texture, frame, None, False)
        self._draw(soft, framebuffer, part, True)

    def _draw(
        self, picture: moderngl.Texture, framebuffer: moderngl.Framebuffer, part: Part | None, stretched: bool
    ) -> None:
        copy, array = self._programs.screen(f"copy {stretched}", "copy.frag", STRETCHED=stretched)
        framebuffer.use()
        whole = (0, 0, *framebuffer.size)
        framebuffer.scissor = whole if part is None else part.box
        self._context.enable_only(moderngl.NOTHING)
        picture.use(0)
        set_uniforms(copy, picture=0, pixel=(1.0 / picture.width, 1.0 / picture.height))
        array.render(moderngl.TRIANGLES, vertices=3)
        framebuffer.scissor = whole
