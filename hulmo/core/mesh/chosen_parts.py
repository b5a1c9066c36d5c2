"""Columns of what is chosen of faces and edges."""

from hulmo.core.mesh.attribute import Attribute

FACES, EDGES = "chosen faces", "chosen edges"
"""Columns of faces and of edges (width 1): 1 where chosen. Vertices have the column `chosen`."""

FLAT, CREASE = "flat", "crease"
"""Face column: 1 where a face is drawn flat. Edge column: how much of a crease an edge is, 0 to 1."""

PARTS = (
    Attribute(FACES, 1, 0.0, 1.0, domain="face"),
    Attribute(EDGES, 1, 0.0, 1.0, domain="edge"),
    Attribute(FLAT, 1, 0.0, 1.0, domain="face"),
    Attribute(CREASE, 1, 0.0, 1.0, domain="edge"),
)
