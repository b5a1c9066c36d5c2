"""What a picture is drawn by, one after the other. To add one: a file here and its line in `IN_SCENE`."""

from collections.abc import Callable

from hulmo.render.passes.chosen import draw_chosen
from hulmo.render.passes.marks import draw_marks
from hulmo.render.passes.objects import draw_objects
from hulmo.render.passes.props import draw_props
from hulmo.render.passes.shot import Shot
from hulmo.render.passes.surface import draw_surface
from hulmo.render.passes.vertices import draw_vertices
from hulmo.render.passes.waters import draw_waters

IN_SCENE: tuple[Callable[[Shot], None], ...] = (
    draw_surface,
    draw_objects,
    draw_props,
    draw_waters,
    draw_vertices,
    draw_chosen,
    draw_marks,
)
"""Passes into linear colour and depth, after the depth of what is textured has been drawn."""
