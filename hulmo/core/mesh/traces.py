"""What weather leaves behind at vertices, for ground rules to ask for."""

from hulmo.core.mesh.attribute import Attribute

FLOW, LAID, WORN = "flow", "laid", "worn"
"""Vertex columns (width 1), metres: the side of a square as large as what drains through; laid down; worn off."""

TRACES = (
    Attribute(FLOW, 1, 0.0, 1e9),
    Attribute(LAID, 1, 0.0, 1e8),
    Attribute(WORN, 1, 0.0, 1e8),
)
