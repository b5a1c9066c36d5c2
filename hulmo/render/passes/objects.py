"""What stands in the scene beside the bodies."""

import numpy as np

from hulmo.core.objects import KINDS
from hulmo.core.objects.kind import sign_matrix
from hulmo.core.objects.scene_object import world_matrix
from hulmo.render.passes.shot import Shot, packed
from hulmo.render.shaders import set_uniforms


def draw_objects(shot: Shot) -> None:
    """Draw them where they stand; signs of what has no shape of its own only for the one who works."""
    view = shot.view
    for entry in view.objects:
        kind = KINDS.get(entry.kind)
        sign = kind is None or kind.sign
        if not entry.shown or (sign and not view.signs):
            continue
        model = world_matrix(view.objects, entry)
        if not view.inside.shows(model[:3, 3]):
            continue
        if kind is None or kind.sign:
            model = sign_matrix(entry, model, view.bounds.radius)
            if np.linalg.norm(model[:3, 3] - view.anchor - view.camera.eye) < 2.0 * np.linalg.norm(model[:3, 0]):
                continue  # one looks out of it
        model[:3, 3] -= view.anchor
        made = shot.stage.programs.named("object")
        set_uniforms(
            made,
            view_projection=packed(shot.matrix),
            model=packed(model),
            paint=(0.35, 0.35, 0.33) if kind is None else kind.colour,
            toward_light=view.toward_light,
            mode={"normals": 1, "shares": 2}.get(view.look.name, 0),
            strength=max(0.12, 0.16 * view.light.sun) if view.look.shaded else 1.0,
        )
        shot.stage.object_mesh(entry.kind).draw(made)
