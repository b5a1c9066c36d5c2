"""The bodies, in the look that is chosen."""

import math

import moderngl
import numpy as np

from hulmo.core.colour import srgb_to_linear
from hulmo.core.ground.ground import LEAST_DEPTH
from hulmo.core.setting import number
from hulmo.render.gathered import kept_names
from hulmo.render.gpu_body import GpuBody
from hulmo.render.ground_textures import MOST_BANKS
from hulmo.render.looks import UNSEEN
from hulmo.render.passes.lamps import told_lamps
from hulmo.render.passes.shadows import told_shadow
from hulmo.render.passes.shot import Shot
from hulmo.render.passes.sky import told_light
from hulmo.render.programs import by_uv, tell_grounds
from hulmo.render.shaders import set_uniforms

FACETS = 2
"""Texture unit of the normals of flat faces."""

UNSEEN_LIGHT = tuple(srgb_to_linear(UNSEEN).tolist())

FIRST_UNIT = 4
"""Texture unit of the first array of ground textures."""


def programs_of(shot: Shot, gathered: bool = False) -> dict[GpuBody, moderngl.Program]:
    """The program that each body is drawn by, or is shaded by where it has been gathered."""
    stage, look = shot.stage, shot.view.look
    banks = len(stage.grounds(shot.hasty).banks) if look.textured else 0
    return {
        body: stage.programs.scene(look, body, stage.project.grounds, banks, gathered, shot.hasty)
        for body in shot.bodies
    }


def has_same_depth(made: moderngl.Program) -> bool:
    """Whether what a program draws has the depth of the depth pass to the bit: what a geometry shader hands on has not."""
    return "corner_uv" not in made


def gathers(shot: Shot) -> bool:
    """Whether the surface is gathered first and shaded once a pixel: on drawers that would shade blocks of pixels for every
    triangle. The picture is the same to the bit."""
    return (
        shot.stage.blocks
        and shot.view.look.textured
        and not any(by_uv(shot.view.look, body, shot.stage.project.grounds) for body in shot.bodies)
        and all(len(_kept(body)) <= shot.stage.most_targets for body in shot.bodies)
    )


def draw_surface(shot: Shot) -> None:
    """Draw all bodies."""
    stage, view, look = shot.stage, shot.view, shot.view.look
    gathered = gathers(shot)
    made_for = programs_of(shot, gathered)
    for made in set(made_for.values()):
        _tell(shot, made)
    if gathered:
        _gather(shot)
    if look.textured:
        for i, (colour, detail) in enumerate(stage.grounds(shot.hasty).banks):
            colour.use(FIRST_UNIT + 2 * i)
            detail.use(FIRST_UNIT + 2 * i + 1)
    stage.context.enable_only(moderngl.NOTHING if gathered else moderngl.DEPTH_TEST)
    for place, (body, made) in enumerate(made_for.items(), 1):
        if not has_same_depth(made):
            body.faces.uv().use(3)
        if body.faces.faceted and not gathered:
            body.faces.facets().use(FACETS)
        if "figures" in made:
            body.faces.figures().use(FACETS)
        set_uniforms(
            made,
            figures=FACETS,
            unseen=UNSEEN_LIGHT,
            grain=view.grains.get(body.ident) or body.grain,
            backs=int(view.backs and not body.closed),
            metres_per_uv=body.faces.metres_per_uv,
            place=body.place(view.anchor),
            number=float(place),
            **_heights(shot, body),
        )
        if gathered:
            set_uniforms(made, **shot.targets.gathered.use(_kept(body)))
            shot.targets.scene.scissor = shot.reached(body).box
            stage.programs.covering(made).render(moderngl.TRIANGLES, vertices=3)
        else:
            shot.render(body, made)
    shot.targets.scene.scissor = shot.part.box


def _gather(shot: Shot) -> None:
    stage, targets = shot.stage, shot.targets
    stage.context.enable_only(moderngl.DEPTH_TEST)
    for place, body in enumerate(shot.bodies, 1):
        made = stage.programs.gather(body)
        if body.faces.faceted:
            body.faces.facets().use(FACETS)
        set_uniforms(
            made,
            place=body.place(shot.view.anchor),
            number=float(place),
            facets=FACETS,
            **shot.seen,
        )
        frame = targets.gathered.frame(targets.depth_texture, _kept(body))
        frame.use()
        frame.scissor = shot.part.box
        if place == 1:  # what was kept of other pictures is nothing now; depth stays
            targets.gathered.number().clear(viewport=shot.part.box)
            frame.use()
        shot.render_unhidden(body, made)
    targets.scene.use()


def _tell(shot: Shot, made: moderngl.Program) -> None:
    stage, view, look = shot.stage, shot.view, shot.view.look
    if look.textured or look.weighted:
        tell_grounds(made, stage.grounds(shot.hasty))
    set_uniforms(
        made,
        **shot.seen,
        eye=tuple(view.camera.eye),
        toward_sun=view.toward_light,
        hatch=int(view.hatch),
        lamp=view.inside.lamp,
        **told_lamps(shot),
        lamp_reach=max(view.bounds.radius * 0.5, 1e-3),
        **_measures(shot),
        **told_light(shot),
        **told_shadow(shot),
        **{f"colour_height_{i}": FIRST_UNIT + 2 * i for i in range(MOST_BANKS)},
        **{f"normal_rough_{i}": FIRST_UNIT + 2 * i + 1 for i in range(MOST_BANKS)},
        corner_uv=3,
        facets=FACETS,
        grounds=len(stage.project.grounds),
        ground_in_hand=view.ground,
        first_ground=view.ground,
        depth=max(view.blend.depth, LEAST_DEPTH) if view.blend.mode == "height" else 0.0,
    )


def _measures(shot: Shot) -> dict[str, object]:
    look, values = shot.view.look, shot.view.values
    if not look.measure:
        return {"cavity": number(values, "cavity") / 100.0} if "cavity" in values else {}
    own = number(values, look.settings[0].name) if look.settings else 0.0
    if look.name == "crowd":
        own = float(shot.view.blend.together)
    ramp = srgb_to_linear(look.ramp).astype(np.float32)
    return {"measure": look.measure, "value": own, "ramp": ramp.tobytes()}


def _heights(shot: Shot, body: GpuBody) -> dict[str, object]:
    look, values = shot.view.look, shot.view.values
    if not look.measure:
        return {}
    bounds, own = shot.view.bounds, body.height
    down = body.down()
    if down["down_kind"]:
        return {**down, "heights": body.heights(), "lift": 0.0}
    lines = 5.0 * number(values, look.settings[0].name) if look.settings else 0.0
    return {
        **down,
        "heights": (float(bounds.low[1] - own), float(bounds.high[1] - own)),
        "lift": math.fmod(own, lines) if lines > 0 else 0.0,
    }


def _kept(body: GpuBody) -> tuple[str, ...]:
    return kept_names(body.groups, body.tinted)
