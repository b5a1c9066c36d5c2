"""Reliefs over a whole surface. To add one: write its file, add one line to `RELIEFS`."""

from hulmo.core.errors import InvalidInput
from hulmo.core.relief import image, jitter, noise, sand, slump, terrace, waves, weather
from hulmo.core.relief.relief import LIMITS, Relief, Task, within_limits

RELIEFS: dict[str, Relief] = {
    relief.name: relief
    for relief in (
        noise.RELIEF,
        image.RELIEF,
        terrace.RELIEF,
        slump.RELIEF,
        jitter.RELIEF,
        weather.RELIEF,
        sand.RELIEF,
        waves.RELIEF,
    )
}


def relief_named(name: str, where: str) -> Relief:
    """A relief by its name in recipes.

    Raises
    ------
    InvalidInput
        No relief has that name.
    """
    if name not in RELIEFS:
        raise InvalidInput(f"{where}: there is no relief {name!r}; known are {', '.join(RELIEFS)}")
    return RELIEFS[name]


__all__ = ["LIMITS", "RELIEFS", "Relief", "Task", "relief_named", "within_limits"]
