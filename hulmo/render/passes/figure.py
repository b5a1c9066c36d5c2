"""The scale figure."""

import numpy as np

from hulmo.render.passes.shot import Shot, packed
from hulmo.render.shaders import set_uniforms


def draw_figure(shot: Shot) -> None:
    """Draw the figure where it stands."""
    view = shot.view
    if view.figure is None or not view.inside.shows(np.array(view.figure)):
        return
    made = shot.stage.programs.named("figure")
    set_uniforms(
        made,
        view_projection=packed(shot.matrix),
        feet=tuple((np.array(view.figure) - view.anchor).tolist()),
        toward_light=view.toward_light,
        strength=max(0.12, 0.16 * view.light.sun) if view.look.shaded else 1.0,
    )
    shot.stage.figure.draw(made)
