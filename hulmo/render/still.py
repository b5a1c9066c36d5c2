"""A still picture of a project, with no display."""

import numpy as np
from PIL import Image

from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.project import Project
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.looks import LOOKS
from hulmo.render.renderer import Renderer, reach_of
from hulmo.render.targets import Targets

LARGEST_SIDE = 8192

TEXTURED = tuple(look.name for look in LOOKS.values() if look.textured)


def still(project: Project, size: tuple[int, int], look: str = "lit", view: str = "", smooth: int = 2) -> Image.Image:
    """Draw a project.

    Parameters
    ----------
    project : Project
    size : tuple of int
        Width and height in pixels, 16 to 8192 each.
    look : str
        A name of `hulmo.render.looks.LOOKS`.
    view : str
        A viewpoint by name; empty for the first one, or for a view of everything where there is none.
    smooth : int
        Samples along each side of a pixel.

    Raises
    ------
    InvalidInput
        Unknown look or viewpoint, or an impossible size.
    FileProblem
        A texture of the palette cannot be read.
    """
    if look not in LOOKS:
        raise InvalidInput(f"there is no look {look!r}; known are {', '.join(LOOKS)}")
    if not all(16 <= side <= LARGEST_SIDE for side in size):
        raise InvalidInput(f"size {size[0]}x{size[1]}: both sides must lie between 16 and {LARGEST_SIDE} pixels")
    names = [viewpoint.name for viewpoint in project.viewpoints]
    if view and view not in names:
        raise InvalidInput(f"there is no viewpoint {view!r}; the project has {', '.join(names) or 'none'}")
    context = headless_context()
    try:
        renderer = Renderer(context, project)
        if names:
            chosen = project.viewpoints[names.index(view) if view else 0]
            camera = Camera.from_viewpoint(chosen, renderer.bounds())
        else:
            camera = Camera.framing(renderer.bounds())
        camera = camera.clipped(reach_of(renderer.bounds(), project.objects, False))
        if look in TEXTURED and renderer.problems:
            raise FileProblem("; ".join(renderer.problems))
        smooth = max(1, min(smooth, context.info["GL_MAX_TEXTURE_SIZE"] // max(size)))
        large = (size[0] * smooth, size[1] * smooth)
        targets = Targets(context, large)
        renderer.picture(targets, camera, look)
        pixels = targets.pixels()
    finally:
        context.release()
    picture = Image.fromarray(np.ascontiguousarray(pixels))
    return picture if smooth == 1 else picture.resize(size, Image.Resampling.BOX)
