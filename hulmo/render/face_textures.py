"""What is known of every face, or of its corners, as textures in the order of drawing."""

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import FLAT, ONE_GROUND
from hulmo.core.mesh.corner_table import UV
from hulmo.core.mesh.facets import flat_faces
from hulmo.core.mesh.sides import unit_normals
from hulmo.core.mesh.uv_scale import metres_per_uv
from hulmo.render.pieces import Pieces

WIDE = 2048
"""Faces, or corners, in one line of a texture."""


class FaceTextures:
    """Textures that are made when they are first asked for, and made anew after what they hold has changed.

    Parameters
    ----------
    context : moderngl.Context
    body : Body
    pieces : Pieces
    """

    def __init__(self, context: moderngl.Context, body: Body, pieces: Pieces) -> None:
        self._context, self._body, self._pieces = context, body, pieces
        self._uv: moderngl.Texture | None = None
        self._facets: moderngl.Texture | None = None
        self._figures: tuple[NDArray[np.float32], moderngl.Texture] | None = None
        self.metres_per_uv = 1.0

    @property
    def faceted(self) -> bool:
        """Whether some faces are drawn flat, or have one ground alone."""
        slots = self._body.corners.slots
        return FLAT in slots or ONE_GROUND in slots

    @property
    def has_uv(self) -> bool:
        """Whether the body has texture coordinates."""
        return self._body.corners.uv is not None

    def facets(self) -> moderngl.Texture:
        """The normal of every face, `WIDE` to a line, and behind it 1 where it is drawn flat and twice the number of its
        one ground."""
        if self._facets is None:
            corners, slots = self._body.corners, self._order(self._body.corners.count)
            triangles = np.maximum(corners.triangles[slots], 0)
            flat = flat_faces(corners)
            filled = np.zeros((max(1, -(-slots.size // WIDE)) * WIDE, 4), np.float32)
            filled[: slots.size, :3] = unit_normals(self._body.vertices["position"], triangles)
            filled[: slots.size, 3] = 0.0 if flat is None else flat[slots]
            one = corners.slots.get(ONE_GROUND)
            if one is not None:
                filled[: slots.size, 3] += 2.0 * one[slots, 0, 0]
            self._facets = self._made(filled)
        return self._facets

    def set_figures(self, values: NDArray[np.float32] | None) -> None:
        """A figure of every triangle slot, for the look that shows them; None for none. They go with the triangles."""
        self._forget_figures()
        if values is not None:
            self._figures = values, self._by_face(values)

    def figures(self) -> moderngl.Texture:
        """The figure of every face, `WIDE` to a line; -2 where none is known."""
        if self._figures is None:
            nothing = np.full(self._body.corners.count, -2.0, np.float32)
            self._figures = nothing, self._by_face(nothing)
        return self._figures[1]

    def uv(self) -> moderngl.Texture:
        """Texture coordinates of every corner, `WIDE` to a line."""
        if self._uv is None:
            given = self._body.corners.uv
            assert given is not None
            slots = self._order(self._body.corners.count)
            flat = np.asarray(given, np.float32).reshape(-1, 3, 2)[slots].reshape(-1, 2)
            filled = np.zeros((max(1, -(-flat.shape[0] // WIDE)) * WIDE, 2), np.float32)
            filled[: flat.shape[0]] = flat
            self._uv = self._made(filled)
            self.metres_per_uv = metres_per_uv(self._body)
        return self._uv

    def moved(self) -> None:
        """Vertices have moved."""
        if self._facets is not None:
            self._facets.release()
            self._facets = None

    def changed(self, column: str) -> None:
        """What is known of faces or corners has changed."""
        if column == UV:
            self._forget_uv()
        if column in (FLAT, ONE_GROUND):
            self.moved()

    def release(self) -> None:
        """Free all; triangles have changed, or nothing is drawn any more."""
        self.moved()
        self._forget_uv()
        self._forget_figures()

    def _order(self, count: int) -> NDArray[np.int32]:
        # the slot at every place; of a table that has become shorter, the last one
        return np.minimum(self._pieces.order[: self._pieces.count], count - 1)

    def _by_face(self, values: NDArray[np.float32]) -> moderngl.Texture:
        slots = self._order(values.size)
        filled = np.full((max(1, -(-slots.size // WIDE)) * WIDE, 1), -2.0, np.float32)
        filled[: slots.size, 0] = values[slots]
        return self._made(filled)

    def _made(self, filled: NDArray[np.float32]) -> moderngl.Texture:
        size = (WIDE, filled.shape[0] // WIDE)
        made = self._context.texture(size, filled.shape[1], filled.tobytes(), dtype="f4")
        made.filter = (moderngl.NEAREST, moderngl.NEAREST)
        return made

    def _forget_uv(self) -> None:
        if self._uv is not None:
            self._uv.release()
            self._uv = None

    def _forget_figures(self) -> None:
        if self._figures is not None:
            self._figures[1].release()
            self._figures = None
