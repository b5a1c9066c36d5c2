"""Thin out: longer edges under the brush; fewer triangles where no camera looks."""

from hulmo.core.sculpt.brush import Brush
from hulmo.core.sculpt.growth import LENGTH

BRUSH = Brush(
    name="thin_out",
    label="Thin out",
    help="Joins edges that are shorter than wanted, so that triangles get fewer.",
    key="J",
    stage="sculpt",
    group="Mesh",
    column="position",
    settings=LENGTH,
    apply=None,
    remeshes="coarser",
    defaults=(("edge", 2.0),),
)
