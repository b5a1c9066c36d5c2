"""The off-screen pictures a scene is drawn into."""

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.render.gathered import Gathered


class Targets:
    """Linear colour, depth, and the finished picture, all of one size.

    Parameters
    ----------
    context : moderngl.Context
    size : tuple of int
        Width and height, pixels.
    like : Targets, optional
        Of the same size, and released later: what is only needed while a picture is drawn is shared with them.
    """

    def __init__(self, context: moderngl.Context, size: tuple[int, int], like: "Targets | None" = None) -> None:
        self.size = size
        self.colour_texture = context.texture(size, 4, dtype="f4")
        self.depth_texture = context.depth_texture(size)
        self.depth_texture.compare_func = ""
        self.result_texture = context.texture(size, 3)
        self.depth_texture.repeat_x = self.depth_texture.repeat_y = False
        self.result_texture.repeat_x = self.result_texture.repeat_y = False
        self.scene = context.framebuffer([self.colour_texture], self.depth_texture)
        self.depth = context.framebuffer(depth_attachment=self.depth_texture)
        self.result = context.framebuffer([self.result_texture])
        self._linear: moderngl.Framebuffer | None = None
        self._own = like is None
        self.gathered: Gathered = Gathered(context, size) if like is None else like.gathered

    @property
    def linear(self) -> moderngl.Framebuffer:
        """For the finished picture in linear light; made when it is first asked for."""
        if self._linear is None:
            self._linear = self.scene.ctx.framebuffer([self.scene.ctx.texture(self.size, 4, dtype="f4")])
        return self._linear

    def light(self) -> NDArray[np.float32]:
        """(H, W, 3) the finished picture in linear light, highest row first."""
        return self._floats(self.linear)[..., :3]

    def figures(self) -> NDArray[np.float32]:
        """(H, W, 4) what passes have written in place of colour, highest row first."""
        return self._floats(self.scene)

    def _floats(self, frame: moderngl.Framebuffer) -> NDArray[np.float32]:
        data = frame.read(components=4, alignment=1, dtype="f4")
        return np.frombuffer(data, np.float32).reshape(self.size[1], self.size[0], 4)[::-1]

    def read(self) -> bytes:
        """RGB bytes of the finished picture, lowest row first."""
        data: bytes = self.result.read(components=3, alignment=1)
        return data

    def pixels(self) -> NDArray[np.uint8]:
        """(H, W, 3) the finished picture, highest row first."""
        return np.frombuffer(self.read(), np.uint8).reshape(self.size[1], self.size[0], 3)[::-1]

    def distances(self, near: float, far: float) -> NDArray[np.float32]:
        """(H, W) metres ahead of the eye, highest row first; infinite where nothing was drawn."""
        width, height = self.size
        raw = np.frombuffer(self.depth_texture.read(alignment=1), np.float32).reshape(height, width)[::-1]
        with np.errstate(divide="ignore"):
            away = near * far / (far - raw.astype(np.float64) * (far - near))
        return np.where(raw >= 1.0, np.inf, away).astype(np.float32)

    def release(self) -> None:
        """Free everything."""
        if self._own:
            self.gathered.release()
        if self._linear is not None:
            self._linear.color_attachments[0].release()
            self._linear.release()
        for item in (self.scene, self.depth, self.result, self.colour_texture, self.depth_texture, self.result_texture):
            item.release()
