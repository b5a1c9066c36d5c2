"""Marked triangles, over the scene."""

from hulmo.render.marks import COLOUR
from hulmo.render.passes.shot import Shot
from hulmo.render.shaders import set_uniforms


def draw_marks(shot: Shot) -> None:
    """Draw the marks there are."""
    marks = shot.stage.marks
    if marks is None:
        return
    made = shot.stage.programs.named("mark")
    set_uniforms(made, colour=COLOUR, **shot.seen)
    marks.draw(made, shot.view.anchor)
