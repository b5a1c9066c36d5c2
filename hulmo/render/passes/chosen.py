"""What is chosen, over the scene."""

from hulmo.render.passes.shot import Shot
from hulmo.render.shaders import set_uniforms


def draw_chosen(shot: Shot) -> None:
    """Draw the faces and edges that are chosen."""
    chosen = shot.stage.chosen
    if chosen is None:
        return
    made = shot.stage.programs.named("chosen")
    set_uniforms(made, **shot.seen)
    chosen.draw(made, shot.view.anchor)
