"""From linear light to the finished picture: sky, contact shading, exposure, curve, sRGB."""

import moderngl
import numpy as np

from hulmo.render.part import Part
from hulmo.render.passes.shot import Shot, packed
from hulmo.render.passes.sky import told_sky
from hulmo.render.shaders import set_uniforms


def draw_result(shot: Shot, part: Part, linear: bool = False) -> None:
    """Make a part of the result from colour and depth; `linear`: without curve, into `targets.linear`."""
    view, look, targets = shot.view, shot.view.look, shot.targets
    resolve, array = shot.stage.programs.screen(
        f"resolve {view.contact} {shot.hasty}", "resolve.frag", CONTACT=view.contact, HASTY=shot.hasty
    )
    width, height = targets.size
    frame = targets.linear if linear else targets.result
    frame.use()
    frame.scissor = part.box
    shot.stage.context.enable_only(moderngl.NOTHING)
    targets.colour_texture.use(0)
    targets.depth_texture.use(1)
    set_uniforms(
        resolve,
        colour_map=0,
        depth_map=1,
        inverse_view_projection=packed(np.asarray(np.linalg.inv(shot.matrix), np.float64)),
        eye=tuple(view.camera.eye),
        **told_sky(shot, 2),
        plain_high=view.paper.high,
        plain_low=view.paper.low,
        exposure=view.light.exposure if look.shaded else 0.0,
        near=view.camera.near,
        far=view.camera.far,
        pixel=(1.0 / width, 1.0 / height),
        window=shot.window,
        reach=view.contact_reach,
        sky=int(look.sky),
        tone=2 if linear or look.plain_figures else 1 if look.shaded else 0,
    )
    array.render(moderngl.TRIANGLES, vertices=3)
    frame.scissor = (0, 0, width, height)
