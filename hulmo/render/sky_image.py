"""The sky on the graphics card."""

import moderngl
import numpy as np

from hulmo.core.dress.light import Light
from hulmo.core.dress.sky import COLUMNS, ROWS, sky_image


class SkyImage:
    """The sky of one light after another."""

    def __init__(self, context: moderngl.Context) -> None:
        self._texture = context.texture((COLUMNS, ROWS), 3, dtype="f2")
        self._texture.filter = (moderngl.LINEAR, moderngl.LINEAR)
        self._texture.repeat_x = self._texture.repeat_y = False
        self._drawn: tuple[float, float, float] | None = None

    def use(self, light: Light, unit: int) -> None:
        """Bind it."""
        wanted = (light.altitude, light.air, light.haze)
        if wanted != self._drawn:
            self._texture.write(np.ascontiguousarray(sky_image(*wanted), np.float16).tobytes())
            self._drawn = wanted
        self._texture.use(unit)
