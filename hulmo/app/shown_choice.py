"""What is drawn over a body while one works on parts of it: what is chosen, and seams."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand.choice import Mask, chosen
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import SEAM
from hulmo.core.mesh.edge_ends import edge_ends
from hulmo.core.uv.seams import seams_of

Places = NDArray[np.float64]


class ShownChoice(NamedTuple):
    """Places in metres.

    Attributes
    ----------
    faces : (K, 3, 3) float64
    edges, seams : (L, 2, 3) float64
    """

    faces: Places = np.empty((0, 3, 3))
    edges: Places = np.empty((0, 2, 3))
    seams: Places = np.empty((0, 2, 3))

    @property
    def any(self) -> bool:
        """Whether there is anything to draw."""
        return any(len(part) > 0 for part in self)


def shown_choice(body: Body | None, domain: str, choice: bool, seams: bool) -> ShownChoice:
    """What to draw of a body.

    Parameters
    ----------
    body : Body, optional
    domain : str
        What one works on: vertex, edge or face.
    choice, seams : bool
        Whether each of them is wanted.
    """
    if body is None:
        return ShownChoice()
    faces, edges, torn = ShownChoice()
    if choice and domain == "face":
        faces = body.placed(body.vertices["position"][body.corners.triangles[chosen(body, "face")]])
    elif choice and domain == "edge":
        edges = _edges(body, chosen(body, "edge"))
    if seams and SEAM in body.corners.slots:
        torn = _edges(body, seams_of(body))
    return ShownChoice(faces, edges, torn)


def _edges(body: Body, mask: Mask) -> Places:
    at = np.flatnonzero(mask.reshape(-1) & (body.corners.opposite < np.arange(mask.size)))
    return np.asarray(body.placed(body.vertices["position"][np.stack(edge_ends(body.corners, at), axis=1)]))
