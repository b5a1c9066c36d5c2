"""The vertices of one body as points."""

import moderngl

from hulmo.render.passes.shot import Shot
from hulmo.render.shaders import set_uniforms

LARGEST = 12
"""Pixels of a point."""


def draw_vertices(shot: Shot) -> None:
    """Draw the vertices of the body whose vertices are chosen."""
    view = shot.view
    body = shot.stage.bodies.get(view.vertices_of)
    if body is None:
        return
    made = shot.stage.programs.named("vertex")
    set_uniforms(
        made,
        edge_pixels=(view.grains.get(body.ident) or body.grain) / view.camera.metres_per_pixel(1.0, shot.size[1]),
        place=body.place(view.anchor),
        **shot.seen,
    )
    shot.stage.context.enable_only(moderngl.DEPTH_TEST | moderngl.PROGRAM_POINT_SIZE)
    body.points(made).render(moderngl.POINTS)
