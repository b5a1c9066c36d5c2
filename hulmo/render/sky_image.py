"""The sky on the graphics card."""

import moderngl
import numpy as np

from hulmo.core.dress.light import Light
from hulmo.core.dress.sky import COLUMNS, ROWS, sky_image
from hulmo.core.dress.sky_picture import SkyPicture


class SkyImage:
    """The sky of one light after another, or of one picture after another."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._air = context.texture((COLUMNS, ROWS), 3, dtype="f2")
        self._air.filter = (moderngl.LINEAR, moderngl.LINEAR)
        self._air.repeat_x = self._air.repeat_y = False
        self._drawn: tuple[float, float, float] | None = None
        self._picture: moderngl.Texture | None = None
        self._of: SkyPicture | None = None

    def use(self, light: Light, picture: SkyPicture | None, unit: int) -> None:
        """Bind it."""
        if picture is not None:
            self._send(picture)
            assert self._picture is not None
            self._picture.use(unit)
            return
        wanted = (light.altitude, light.air, light.haze)
        if wanted != self._drawn:
            self._air.write(np.ascontiguousarray(sky_image(*wanted), np.float16).tobytes())
            self._drawn = wanted
        self._air.use(unit)

    def _send(self, picture: SkyPicture) -> None:
        if picture is self._of:
            return
        if self._picture is not None:
            self._picture.release()
        height, width = picture.light.shape[:2]
        self._picture = self._context.texture(
            (width, height), 3, np.ascontiguousarray(picture.light).tobytes(), dtype="f2"
        )
        self._picture.filter = (moderngl.LINEAR, moderngl.LINEAR)
        self._picture.repeat_x, self._picture.repeat_y = True, False
        self._of = picture
