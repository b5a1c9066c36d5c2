"""Demo projects: recipes, and what they build."""

import pathlib

from hulmo.core.errors import InvalidInput

FOLDER = pathlib.Path(__file__).parent

DEMOS = {
    "tern-skerry": "A basalt sea stack off an invented coast, about 60 m across, with overhung ledges.",
    "vesper": "A small ice moon with craters and fissures, radius 40 m.",
    "gill-gallery": "A cave with dripstone, a side passage and a shaft to the sky, seen from inside.",
    "cobble-spires": "Low-polygon rocks that float, with turfed caps, made by hand work alone.",
}


def demo_file(name: str) -> pathlib.Path:
    """The built project of a demo.

    Raises
    ------
    InvalidInput
        No such demo.
    """
    if name not in DEMOS:
        raise InvalidInput(f"there is no demo {name!r}; known are {', '.join(DEMOS)}")
    return FOLDER / f"{name}.hulmo"
