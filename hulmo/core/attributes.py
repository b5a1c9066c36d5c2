"""Every attribute that the program knows by name. To add one: declare it where it is used, add one line here.

Columns that no entry means are carried, saved and read like the others; they may hold any finite numbers.
"""

from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.marked import CHOSEN, MARKED
from hulmo.core.ground.rules import KEPT
from hulmo.core.ground.weights import HAND, RULED, WEIGHT
from hulmo.core.mesh.attribute import ANY, FARTHEST, GROUNDS, Attribute
from hulmo.core.mesh.body import GUARD
from hulmo.core.mesh.chosen_parts import PARTS
from hulmo.core.mesh.corner_table import REGION, UV
from hulmo.core.mesh.layer import RELIEF, REST
from hulmo.core.mesh.patch import SCRATCH
from hulmo.core.mesh.stitched import ATTRIBUTE as STITCHES
from hulmo.core.mesh.traces import TRACES
from hulmo.core.objects.line import LINES
from hulmo.core.sculpt.coat import COAT

SLACK = 1e-3
"""How far a share may lie outside 0 to 1, and a total off 1: rounding of many small steps."""

ATTRIBUTES: tuple[Attribute, ...] = (
    Attribute("position", 3, -FARTHEST, FARTHEST),
    Attribute("normal", 3, -2.0, 2.0, kept=False),
    Attribute(REST, 3, -FARTHEST, FARTHEST),
    Attribute(RELIEF, 3, -FARTHEST, FARTHEST, family=True),
    Attribute(GUARD, 1, -SLACK, 1.0 + SLACK),
    Attribute(COAT, 1, -SLACK, 1.0 + SLACK),
    Attribute(WEIGHT, GROUNDS, 0.0, 1.0 + SLACK, total="one"),
    Attribute(HAND, GROUNDS, 0.0, 1.0 + SLACK, total="most"),
    Attribute(RULED, GROUNDS, 0.0, 1.0 + SLACK, total="one"),
    Attribute(KEPT, 1, family=True),
    Attribute(TINT, 4, -SLACK, 1.0 + SLACK),
    Attribute(CHOSEN, 1, -SLACK, 1.0 + SLACK),
    Attribute(MARKED, 1, -SLACK, 1.0 + SLACK, family=True),
    STITCHES,
    *TRACES,
    *PARTS,
    *LINES,
    Attribute(UV, 2, domain="corner"),
    Attribute(REGION, 1, 0.0, 65535.0, domain="face"),
    Attribute(SCRATCH, ANY, family=True, kept=False),
)

_UNKNOWN = Attribute("", ANY, family=True)


def attribute_of(column: str, domain: str = "vertex") -> Attribute:
    """What is known of a column; of a strange one, that it holds finite numbers."""
    for attribute in ATTRIBUTES:
        if attribute.domain == domain and attribute.means(column):
            return attribute
    return _UNKNOWN
