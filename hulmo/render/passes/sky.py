"""What shaders are told of the light of sun and sky, of the sky itself, and of fog."""

import math

import numpy as np

from hulmo.core.dress.sky_picture import harmonics
from hulmo.render.passes.shot import Shot

DISC = 12.0
"""How much brighter than what it lights the sun's disc is drawn."""

UPPER = np.array([0.50, 0.58, 0.70])
"""Share of `sky_light` that falls on level ground, as in `shade.glsl`."""


def told_light(shot: Shot) -> dict[str, object]:
    """Uniforms of `shade.glsl` and of what is lit by sun and sky alike."""
    light, picture = shot.view.light, shot.stage.project.sky
    out: dict[str, object] = {"sun_light": light.sun_light(), "sky_light": light.sky_light(), "sky_parts_on": 0}
    if picture is not None:
        turned = picture.turned(light.sky_turn) * light.sky
        level = harmonics(np.array([[0.0, 1.0, 0.0]]))[0] @ turned
        out |= {
            "sky_light": tuple((np.maximum(level, 0.0) / UPPER).tolist()),
            "sky_parts_on": 1,
            "sky_parts": turned.astype(np.float32).tobytes(),
        }
    return out


def told_sky(shot: Shot, unit: int) -> dict[str, object]:
    """Uniforms of `sky.glsl`, with the image bound to a unit."""
    light, picture = shot.view.light, shot.stage.project.sky
    shot.stage.sky.use(light, picture, unit)
    paint = light.fog_light()
    return {
        "sky_map": unit,
        "from_picture": int(picture is not None),
        "sky_turn": math.radians(light.sky_turn),
        "true_sun": light.toward_sun(),
        "sky_strength": light.sky,
        "disc": tuple(DISC * value for value in light.sun_light()),
        "fog": light.extinction(),
        "fog_level": light.fog_level - float(shot.view.anchor[1]),
        "fog_fall": light.fog_fall,
        "fog_paint": (0.0, 0.0, 0.0, 0.0) if paint is None else (*paint, 1.0),
    }
