"""A small picture at once, by a renderer that is at work already."""

from dataclasses import replace

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.render.camera import Camera
from hulmo.render.renderer import Renderer, reach_of
from hulmo.render.targets import Targets

QUICK_SIZE = (640, 480)
"""Pixels."""


def quick_picture(
    renderer: Renderer, camera: Camera, look: str, size: tuple[int, int] = QUICK_SIZE
) -> NDArray[np.uint8]:
    """(H, W, 3) what a camera sees, without what is marked for the one who works.

    The renderer's context must be current.
    """
    camera = camera.clipped(reach_of(renderer.bounds(), renderer.project.objects, False))
    view = replace(renderer.view(camera, look), hatch=False, backs=False, signs=False, vertices_of=0)
    targets = Targets(renderer.context, size)
    texture = renderer.context.texture(size, 3)
    frame = renderer.context.framebuffer([texture])
    try:
        for _ in renderer.steps(targets, view, quick=True):  # shadows stay those of the picture that is shown
            pass
        renderer.copy(targets, frame)
        data = frame.read(components=3, alignment=1)
    finally:
        frame.release()
        texture.release()
        targets.release()
        renderer.context.enable_only(moderngl.NOTHING)
    return np.frombuffer(data, np.uint8).reshape(size[1], size[0], 3)[::-1]
