"""A small picture at once, by a renderer that is at work already."""

from dataclasses import replace

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.render.camera import Camera
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets

QUICK_SIZE = (640, 480)
"""Pixels."""


def quick_picture(renderer: Renderer, camera: Camera, look: str) -> NDArray[np.uint8]:
    """(480, 640, 3) what a camera sees, without what is marked for the one who works.

    The renderer's context must be current.
    """
    view = replace(renderer.view(camera, look), hatch=False, backs=False, signs=False, vertices_of=0)
    targets = Targets(renderer.context, QUICK_SIZE)
    texture = renderer.context.texture(QUICK_SIZE, 3)
    frame = renderer.context.framebuffer([texture])
    try:
        for _ in renderer.steps(targets, view):
            pass
        renderer.copy(targets, frame)
        data = frame.read(components=3, alignment=1)
    finally:
        frame.release()
        texture.release()
        targets.release()
        renderer.context.enable_only(moderngl.NOTHING)
    return np.frombuffer(data, np.uint8).reshape(QUICK_SIZE[1], QUICK_SIZE[0], 3)[::-1]
