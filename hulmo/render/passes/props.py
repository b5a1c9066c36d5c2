"""Props on the bodies."""

import moderngl

from hulmo.render.passes.lamps import told_lamps
from hulmo.render.passes.shadows import told_shadow
from hulmo.render.passes.shot import Shot
from hulmo.render.passes.sky import told_light
from hulmo.render.shaders import set_uniforms
from hulmo.render.view import from_tables

LIT, PLAIN, SHAPE, NORMAL, NOTHING = 0, 1, 2, 3, 4

MODES = {"lit": LIT, "ground": PLAIN, "form": SHAPE, "normals": NORMAL, "shares": NOTHING}
"""How props are drawn, by the look that they are drawn in."""


def draw_props(shot: Shot) -> None:
    """Draw them in the looks that show colours or shapes; measures of the ground are shown without them."""
    view, stage = shot.view, shot.stage
    mode = MODES.get(view.look.name)
    if mode is None:
        return
    shown = stage.props_shown()
    if not shown:
        return
    made = stage.programs.named("prop")
    pixels = 1.0 / view.camera.metres_per_pixel(1.0, max(1, round(shot.targets.size[1] / shot.window[3])))
    first = 0
    for props in shown:
        place = props.place(view.anchor)
        set_uniforms(
            made,
            **shot.seen,
            place=place,
            eye=tuple(view.camera.eye),
            toward_sun=view.toward_light,
            **told_light(shot),
            lamp=view.inside.lamp,
            **told_lamps(shot),
            lamp_reach=max(view.bounds.radius * 0.5, 1e-3),
            **told_shadow(shot),
            mode=mode,
        )
        stage.context.enable_only(moderngl.DEPTH_TEST)
        props.draw(
            made, from_tables(shot.matrix, place), view.camera.eye - place, pixels, first if mode == NORMAL else None
        )
        first += props.count
