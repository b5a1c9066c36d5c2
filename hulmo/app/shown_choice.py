"""What is drawn over a body while one works on parts of it: what is chosen, and seams."""

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from hulmo.app.session import Session
from hulmo.app.stages import UV_GROUP
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


class ShownOver:
    """What is drawn over the active body: what is chosen, seams, or the cage of a bake.

    Parameters
    ----------
    session : Session

    Attributes
    ----------
    beside_uv : bool
        Whether the UV view is open.
    cage : pair of (L, 2, 3) float64, or None
        Lines of how far a bake looks outward and inward, metres.
    """

    def __init__(self, session: Session) -> None:
        self._session = session
        self.beside_uv = False
        self.cage: tuple[Places, Places] | None = None
        self._was = False

    def wanted(self, by_hand: bool) -> bool:
        """Whether what is chosen is drawn: with a tool that works on parts in hand, or on texture coordinates."""
        return by_hand or self._on_uv()

    def now(self, by_hand: bool) -> ShownChoice | None:
        """What is to be drawn; None where nothing is, and nothing was."""
        session = self._session
        seams = session.parts.domain == "edge" or self._on_uv()
        shown = shown_choice(session.body, session.parts.domain, self.wanted(by_hand), seams)
        if self.cage is not None:
            shown = ShownChoice(shown.faces, *self.cage)
        was, self._was = self._was, shown.any
        return shown if was or shown.any else None

    def _on_uv(self) -> bool:
        return self.beside_uv or self._session.tool.group == UV_GROUP
