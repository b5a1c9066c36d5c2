"""Waters of the scene, laid over what stands in them."""

import math

import moderngl

from hulmo.core.colour import hex_to_linear
from hulmo.core.objects.water import is_water, water_settings
from hulmo.core.setting import number
from hulmo.render.passes.shot import Shot, packed
from hulmo.render.passes.sky import told_light, told_sky
from hulmo.render.shaders import set_uniforms


def draw_waters(shot: Shot) -> None:
    """Draw them in the looks in which sun and sky act; they are left out of a section."""
    view, stage = shot.view, shot.stage
    if not (view.look.shaded and view.look.sky) or view.inside.section is not None:
        return
    entries = [entry for entry in view.objects if is_water(entry) and entry.shown]
    if not entries:
        return
    if not view.hatch:  # in the window, somebody else finds out in the background
        stage.waters.take(stage.project)
    context, made = stage.context, stage.programs.named("water")
    for entry in entries:
        drawn = stage.waters.get(entry.ident)
        if drawn is None:
            continue
        values = water_settings(entry)
        set_uniforms(
            made,
            **told_sky(shot, 2),
            view_projection=packed(shot.matrix),
            place=tuple(drawn.middle - view.anchor),
            phase=tuple(math.fmod(value, 1e4) for value in drawn.middle),
            eye=tuple(view.camera.eye),
            **told_light(shot),
            clear=number(values, "clear"),
            shallow=hex_to_linear(str(values["shallow"]), entry.name),
            deep=hex_to_linear(str(values["deep"]), entry.name),
            steep=math.tan(math.radians(number(values, "waves"))),
            wave=number(values, "length"),
            foam=number(values, "foam"),
        )
        context.enable_only(moderngl.DEPTH_TEST | moderngl.BLEND)
        context.blend_func = moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA
        drawn.draw(made)
    context.enable_only(moderngl.DEPTH_TEST)
