"""Columns of what is chosen of faces and edges."""

from hulmo.core.mesh.attribute import Attribute

FACES, EDGES = "chosen faces", "chosen edges"
"""Columns of faces and of edges (width 1): 1 where chosen. Vertices have the column `chosen`."""

KEPT_CHOICE = "chosen as "
"""How columns of faces and edges begin that hold what is kept under a name; the domain follows, and the name."""

FLAT, CREASE = "flat", "crease"
"""Face column: 1 where a face is drawn flat. Edge column: how much of a crease an edge is, 0 to 1."""

SEAM = "seam"
"""Edge column: 1 where a body is cut open to be unwrapped."""

ONE_GROUND = "one ground"
"""Face column: 1 + the column of the ground that alone lies on a face, whatever its vertices say; 0 where they say."""

PARTS = (
    Attribute(FACES, 1, 0.0, 1.0, domain="face"),
    Attribute(EDGES, 1, 0.0, 1.0, domain="edge"),
    Attribute(f"{KEPT_CHOICE}face ", 1, 0.0, 1.0, domain="face", family=True),
    Attribute(f"{KEPT_CHOICE}edge ", 1, 0.0, 1.0, domain="edge", family=True),
    Attribute(FLAT, 1, 0.0, 1.0, domain="face"),
    Attribute(ONE_GROUND, 1, 0.0, 64.0, domain="face"),
    Attribute(SEAM, 1, 0.0, 1.0, domain="edge"),
    Attribute(CREASE, 1, 0.0, 1.0, domain="edge"),
)
