"""What shaders are told of the sun's shadow."""

import math

from hulmo.render.passes.shot import Shot, packed
from hulmo.render.shadow import SIDE

NEAR, PLAIN, NEAR_PLAIN = 1, 12, 13
"""Texture units: of the finer shadow, and of both as plain depths."""


def told_shadow(shot: Shot) -> dict[str, object]:
    """Uniforms of the shadow in `light.glsl`, with its textures bound."""
    stage, view = shot.stage, shot.view
    whole, near = stage.shadow, stage.near_shadow
    for shadow, unit, plain in ((whole, 0, PLAIN), (near, NEAR, NEAR_PLAIN)):
        shadow.texture.use(unit)
        shadow.texture.use(plain)
        shadow.plain.use(plain)
    return {
        "shadows": int(view.shadows and view.values.get("light", "sun") == "sun"),
        "shadow_matrix": packed(whole.matrix),
        "near_matrix": packed(near.matrix),
        "near_there": int(stage.near_there),
        "shadow_step": (1.0 / SIDE, whole.offset, whole.wide, whole.deep),
        "near_step": (1.0 / SIDE, near.offset, near.wide, near.deep),
        "shadow_map": 0,
        "near_map": NEAR,
        "shadow_plain": PLAIN,
        "near_plain": NEAR_PLAIN,
        "sun_size": math.tan(math.radians(view.light.sun_width)),
    }
