"""Measures that ground rules ask for. To add one: write its file, add one line here."""

from hulmo.core.errors import InvalidInput
from hulmo.core.ground.measures import (
    bend,
    facing,
    flow,
    height,
    laid,
    latitude,
    line,
    near,
    patchy,
    sheltered,
    slope,
    under_water,
    waterline,
    worn,
)
from hulmo.core.ground.measures.measure import Asked, Measure

MEASURES: dict[str, Measure] = {
    measure.name: measure
    for measure in (
        slope.MEASURE,
        height.MEASURE,
        bend.MEASURE,
        facing.MEASURE,
        latitude.MEASURE,
        sheltered.MEASURE,
        near.MEASURE,
        patchy.MEASURE,
        flow.MEASURE,
        laid.MEASURE,
        worn.MEASURE,
        line.MEASURE,
        under_water.MEASURE,
        waterline.MEASURE,
    )
}

OF_WATER = frozenset({under_water.MEASURE.name, waterline.MEASURE.name})
"""Measures that hang on the waters of the scene."""

__all__ = ["MEASURES", "OF_WATER", "Asked", "Measure", "measure_named"]


def measure_named(name: str, where: str) -> Measure:
    """A measure by its name in recipes.

    Raises
    ------
    InvalidInput
        No measure has that name.
    """
    if name not in MEASURES:
        raise InvalidInput(f"{where}: there is no measure {name!r}; known are {', '.join(MEASURES)}")
    return MEASURES[name]
