"""Choices that are kept under a name."""

import numpy as np

from hulmo.core.by_hand.choice import Mask
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.marked import MARKED
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import KEPT_CHOICE

DOMAINS = ("vertex", "edge", "face")


def kept_column(domain: str, name: str) -> str:
    """Column of what is kept under a name; of vertices, a marked set."""
    return f"{MARKED}{name}" if domain == "vertex" else f"{KEPT_CHOICE}{domain} {name}"


def kept_names(body: Body, domain: str) -> list[str]:
    """Names under which something is kept."""
    start = kept_column(domain, "")
    names = body.vertices.names if domain == "vertex" else body.corners.slots.names(domain)
    return [name[len(start) :] for name in names if name.startswith(start)]


def kept_choice(body: Body, domain: str, name: str) -> Mask:
    """What is kept under a name.

    Raises
    ------
    InvalidInput
        Nothing is.
    """
    if name not in kept_names(body, domain):
        known = ", ".join(repr(entry) for entry in kept_names(body, domain)) or "none"
        raise InvalidInput(f"{body.name!r} has no choice {name!r} of a {domain}; it has {known}")
    column = kept_column(domain, name)
    if domain == "vertex":
        return np.asarray((body.vertices[column][:, 0] >= 0.5) & (body.corners.first_corner >= 0))
    there = body.corners.triangles[:, :1] >= 0
    values = body.corners.slots[column][:, :, 0] >= 0.5
    return np.asarray((values & there)[:, 0] if domain == "face" else values & there)
