"""Texture coordinates: ways to lay them. To add one: a file here and its line in `PROJECTIONS`."""

from hulmo.core.uv.above import ABOVE
from hulmo.core.uv.box import BOX
from hulmo.core.uv.cylinder import CYLINDER
from hulmo.core.uv.plane import PLANE
from hulmo.core.uv.projection import Projection
from hulmo.core.uv.six_sides import SIX_SIDES
from hulmo.core.uv.sphere import SPHERE

PROJECTIONS: dict[str, Projection] = {entry.name: entry for entry in (ABOVE, PLANE, BOX, CYLINDER, SPHERE, SIX_SIDES)}
