"""What shaders are told of the sky and of fog."""

from hulmo.render.passes.shot import Shot

DISC = 12.0
"""How much brighter than what it lights the sun's disc is drawn."""


def told_sky(shot: Shot, unit: int) -> dict[str, object]:
    """Uniforms of `sky.glsl`, with the image bound to a unit."""
    light = shot.view.light
    shot.stage.sky.use(light, unit)
    paint = light.fog_light()
    return {
        "sky_map": unit,
        "true_sun": light.toward_sun(),
        "sky_strength": light.sky,
        "disc": tuple(DISC * value for value in light.sun_light()),
        "fog": light.extinction(),
        "fog_level": light.fog_level - float(shot.view.anchor[1]),
        "fog_fall": light.fog_fall,
        "fog_paint": (0.0, 0.0, 0.0, 0.0) if paint is None else (*paint, 1.0),
    }
