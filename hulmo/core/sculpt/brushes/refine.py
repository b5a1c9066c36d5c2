"""Refine: shorter edges under the brush; the shape stays."""

from hulmo.core.sculpt.brush import Brush
from hulmo.core.sculpt.growth import LENGTH

BRUSH = Brush(
    name="refine",
    label="Refine",
    help="Splits edges that are longer than wanted. The shape stays.",
    key="Y",
    stage="sculpt",
    group="Mesh",
    column="position",
    settings=LENGTH,
    apply=None,
    remeshes="finer",
    defaults=(("edge", 0.25),),
)
