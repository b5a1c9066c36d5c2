"""A part that was drawn with few pixels, stretched over what has changed in the whole picture."""

import moderngl
import numpy as np

from hulmo.render.passes.shot import Shot, packed
from hulmo.render.shaders import set_uniforms
from hulmo.render.targets import Targets
from hulmo.render.touched import Touched


def draw_stretched(shot: Shot, whole: Targets, touched: Touched) -> None:
    """Put the finished picture of a shot over a part of another one, where what has changed is seen or was."""
    stretch, array = shot.stage.programs.screen("stretch", "stretch.frag")
    whole.result.use()
    whole.result.viewport = touched.part.box
    shot.stage.context.enable_only(moderngl.NOTHING)
    for unit, texture in enumerate((shot.targets.result_texture, shot.targets.depth_texture, whole.depth_texture)):
        texture.use(unit)
    set_uniforms(
        stretch,
        picture=0,
        depth_map=1,
        depth_before=2,
        ball=touched.ball,
        inverse=packed(np.asarray(np.linalg.inv(shot.matrix), np.float64)),
    )
    array.render(moderngl.TRIANGLES, vertices=3)
    whole.result.viewport = (0, 0, *whole.size)
