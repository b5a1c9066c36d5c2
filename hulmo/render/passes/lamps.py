"""What shaders are told of the lamps of the scene."""

import numpy as np

from hulmo.core.objects.lamp import LAMP, LUX, MOST_LAMPS, candela, lamp_values
from hulmo.core.objects.scene_object import world_matrix
from hulmo.core.setting import number
from hulmo.render.passes.shot import Shot


def told_lamps(shot: Shot) -> dict[str, object]:
    """Uniforms of `light.glsl` for the lamps nearest to what is looked at."""
    view = shot.view
    found = [entry for entry in view.objects if entry.kind == LAMP.name and entry.shown]
    if not found:
        return {"lamps": 0}
    places = np.array([world_matrix(view.objects, entry)[:3, 3] for entry in found]) - view.anchor
    near = np.argsort(np.linalg.norm(places - view.camera.target, axis=1), kind="stable")[:MOST_LAMPS]
    at, light = np.zeros((MOST_LAMPS, 4), np.float32), np.zeros((MOST_LAMPS, 3), np.float32)
    for i, row in enumerate(near.tolist()):
        at[i] = (*places[row], number(lamp_values(found[row]), "reach"))
        light[i] = np.array(candela(found[row])) / LUX
    return {"lamps": len(near), "lamp_at": at.tobytes(), "lamp_light": light.tobytes()}
