"""Depth alone, so that what is hidden behind something else is not shaded."""

import moderngl

from hulmo.render.gpu_body import GpuBody
from hulmo.render.passes.shot import Shot, packed
from hulmo.render.shaders import set_uniforms


def draw_depth(shot: Shot, bodies: list[GpuBody]) -> None:
    """Draw the depth of some bodies: looking up many grounds costs far more than drawing twice."""
    made = shot.stage.programs.named("depth")
    set_uniforms(made, view_projection=packed(shot.matrix))
    shot.targets.depth.use()
    shot.targets.depth.scissor = shot.part.box
    shot.stage.context.depth_func = "<"
    shot.stage.context.enable_only(moderngl.DEPTH_TEST)
    for body in bodies:
        set_uniforms(made, place=body.place(shot.view.anchor))
        shot.render(body, made)
