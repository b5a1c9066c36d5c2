"""Marked triangles, over the scene."""

from hulmo.render.marks import COLOUR
from hulmo.render.passes.shot import Shot, packed
from hulmo.render.shaders import set_uniforms


def draw_marks(shot: Shot) -> None:
    """Draw the marks there are."""
    marks, view = shot.stage.marks, shot.view
    if marks is None:
        return
    made = shot.stage.programs.named("mark")
    set_uniforms(
        made,
        view_projection=packed(shot.matrix),
        colour=COLOUR,
        sectioned=int(view.inside.section is not None),
        section=view.section,
    )
    marks.draw(made, view.anchor)
