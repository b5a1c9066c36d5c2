"""Every brush there is. To add one: write its file, add one line here."""

from hulmo.core.errors import InvalidInput
from hulmo.core.ground.brushes import feather, give_back, lay, lift, set_share, tint
from hulmo.core.sculpt.brush import Brush
from hulmo.core.sculpt.brushes import (
    even_out,
    guard,
    haul,
    infill,
    ledge,
    level,
    pinch,
    raise_lower,
    refine,
    roughen,
    shave,
    slump,
    smooth,
    stamp,
    swell,
    thin_out,
)

BRUSHES: dict[str, Brush] = {
    brush.name: brush
    for brush in (
        raise_lower.BRUSH,
        swell.BRUSH,
        haul.BRUSH,
        smooth.BRUSH,
        level.BRUSH,
        shave.BRUSH,
        infill.BRUSH,
        pinch.BRUSH,
        ledge.BRUSH,
        roughen.BRUSH,
        stamp.BRUSH,
        slump.BRUSH,
        even_out.BRUSH,
        refine.BRUSH,
        thin_out.BRUSH,
        guard.BRUSH,
        lay.BRUSH,
        lift.BRUSH,
        feather.BRUSH,
        set_share.BRUSH,
        give_back.BRUSH,
        tint.BRUSH,
    )
}


def brush_named(name: str, where: str) -> Brush:
    """A brush by its name in recipes.

    Raises
    ------
    InvalidInput
        No brush has that name.
    """
    if name not in BRUSHES:
        raise InvalidInput(f"{where}: there is no brush {name!r}; known are {', '.join(BRUSHES)}")
    return BRUSHES[name]
