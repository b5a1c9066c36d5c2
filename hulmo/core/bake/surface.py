"""What is known of the surface at the texels of an image."""

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import ONE_GROUND
from hulmo.core.mesh.corner_table import UV
from hulmo.core.mesh.facets import flat_faces
from hulmo.core.mesh.sides import unit_normals
from hulmo.core.mesh.uv_scale import metres_per_uv
from hulmo.core.workers import by_pieces

Places = NDArray[np.float32]
Slots = NDArray[np.int32]

PIECE = 1 << 16
"""Places that one thread does at a time."""


class Surface:
    """K places of a surface; what is known of them is worked out when it is first asked for.

    Parameters
    ----------
    of : SurfaceAt
    triangle : (K,) int32
        Slots.
    share : (K, 2) float32
        Of the second and third corner.
    steps : (dx, dy, lengths), optional
        Where texels lie on another surface: `dx` and `dy`, and how long a texel is along each, (K,) metres.
    """

    def __init__(
        self, of: "SurfaceAt", triangle: Slots, share: Places, steps: tuple[Places, Places, Places] | None = None
    ) -> None:
        self._of, self._triangle, self._share, self._other = of, triangle, share, steps

    @property
    def count(self) -> int:
        """How many places."""
        return self._triangle.size

    @cached_property
    def position(self) -> Places:
        """(K, 3) metres about the body's origin."""
        return self._of.mixed(self._of.body.vertices["position"], self._triangle, self._share)

    @cached_property
    def normal(self) -> Places:
        """(K, 3) of length 1."""
        return self._of.normals(self._triangle, self._share)

    @cached_property
    def dx(self) -> Places:
        """(K, 3) metres from one texel to the next, to the right."""
        return self._of.steps[0][self._triangle] if self._other is None else self._other[0]

    @cached_property
    def dy(self) -> Places:
        """(K, 3) the same, down."""
        return self._of.steps[1][self._triangle] if self._other is None else self._other[1]

    @cached_property
    def weight(self) -> Places:
        """(K, G) ground weights."""
        return self._of.weights(self._triangle, self._share)

    @cached_property
    def tint(self) -> Places | None:
        """(K, 4), or None where the body has no tint."""
        tint = self._of.body.vertices.get(TINT)
        return None if tint is None else self._of.mixed(tint, self._triangle, self._share)

    @cached_property
    def along(self) -> Places | None:
        """(K, 6) metres along the first set of texture coordinates: place, and what a texel to the right and one down are;
        None where no ground lies along them."""
        along = self._of.along(self._triangle, self._share)
        if along is not None and self._other is not None:  # how finely they are sampled, the other surface says
            along[:, 2:] = 0.0
            along[:, 2], along[:, 5] = self._other[2].T
        return along


class SurfaceAt:
    """Answers what the surface of a body is like at places of it.

    Parameters
    ----------
    body : Body
    uv : (M, 3, 2) float32
        By slot.
    size : tuple of int
        Texels of the image.
    by_uv : bool
        Whether `Surface.along` is wanted, where the body has texture coordinates.

    Attributes
    ----------
    body : Body
    steps : tuple of (M, 3) float32
        Metres that a texel to the right and one down are, by slot.
    """

    def __init__(self, body: Body, uv: NDArray[np.float32], size: tuple[int, int], by_uv: bool = False) -> None:
        self.body = body
        corners = body.corners
        self._triangles = np.maximum(corners.triangles, 0)
        flat = flat_faces(corners)
        self._flat = None if flat is None else flat > 0
        self._own = (
            None if flat is None else unit_normals(body.vertices["position"], self._triangles).astype(np.float32)
        )
        one = corners.slots.get(ONE_GROUND)
        self._one = None if one is None else one[:, 0, 0].astype(np.int32)
        first = corners.slots.get(UV) if by_uv else None
        self._first = None if first is None else first * np.float32(metres_per_uv(body))
        self._along: Places | None = None
        if self._first is not None:
            flat_place = np.zeros((*self._first.shape[:2], 3), np.float32)
            flat_place[..., :2] = self._first
            right, down = _per_texel(
                flat_place.reshape(-1, 3), np.arange(3 * corners.count, dtype=np.int32).reshape(-1, 3), uv, size
            )
            self._along = np.concatenate((right[:, :2], down[:, :2]), axis=1)
        self.steps = _per_texel(body.vertices["position"], self._triangles, uv, size)

    def normals(self, triangle: Slots, share: Places) -> Places:
        """(K, 3) of length 1: those of flat faces are their own."""
        normal = self.mixed(self.body.vertices["normal"], triangle, share)
        if self._flat is not None and self._own is not None:
            flat = self._flat[triangle]
            normal[flat] = self._own[triangle[flat]]
        by_pieces(lambda part: _to_length_one(normal[part]), triangle.size, PIECE)
        return normal

    def weights(self, triangle: Slots, share: Places) -> Places:
        """(K, G) ground weights: those of faces with one ground alone are its."""
        grounds = self.mixed(self.body.vertices[WEIGHT], triangle, share)
        if self._one is not None:
            one = self._one[triangle]
            alone = np.flatnonzero(one > 0)
            grounds[alone] = 0.0
            grounds[alone, one[alone] - 1] = 1.0
        return grounds

    def along(self, triangle: Slots, weight: Places) -> Places | None:
        """(K, 6) as `Surface.along`, by the texels of this surface."""
        if self._first is None or self._along is None:
            return None
        corner = self._first[triangle]
        place = corner[:, 0] * (1.0 - weight[:, :1] - weight[:, 1:])
        place += corner[:, 1] * weight[:, :1]
        place += corner[:, 2] * weight[:, 1:]
        return np.asarray(np.concatenate((place, self._along[triangle]), axis=1), np.float32)

    def mixed(self, column: Places, triangle: Slots, weight: Places) -> Places:
        """(K, W) values of a vertex column at K places."""
        out = np.empty((triangle.size, column.shape[1]), np.float32)
        given = np.ascontiguousarray(column, np.float32), np.ascontiguousarray(self._triangles)
        slots, shares = np.ascontiguousarray(triangle, np.int32), np.ascontiguousarray(weight, np.float32)
        by_pieces(lambda part: _mixed(*given, slots[part], shares[part], out[part]), triangle.size, PIECE)
        return out


@kernel("void(float32[:,::1])")
def _to_length_one(normal: Places) -> None:
    for i in range(normal.shape[0]):
        length = np.sqrt(normal[i, 0] * normal[i, 0] + normal[i, 1] * normal[i, 1] + normal[i, 2] * normal[i, 2])
        length = max(length, np.float32(1e-12))
        for k in range(3):
            normal[i, k] /= length


@kernel("void(float32[:,::1], int32[:,::1], int32[::1], float32[:,::1], float32[:,::1])")
def _mixed(column: Places, triangles: Slots, triangle: Slots, weight: Places, out: Places) -> None:
    for i in range(triangle.size):
        t = triangle[i]
        a, b, c = triangles[t, 0], triangles[t, 1], triangles[t, 2]
        second, third = weight[i, 0], weight[i, 1]
        first = np.float32(1.0) - second - third
        for w in range(out.shape[1]):
            out[i, w] = column[a, w] * first + column[b, w] * second + column[c, w] * third


def _per_texel(
    position: Places, triangles: Slots, uv: NDArray[np.float32], size: tuple[int, int]
) -> tuple[Places, Places]:
    # (M, 3) metres that a texel to the right and one down are; 0 where a triangle has no area in the image
    a, b, c = (position[triangles[:, k]].astype(np.float64) for k in range(3))
    one, two = (uv[:, k].astype(np.float64) - uv[:, 0] for k in (1, 2))
    turn = one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]
    safe = np.where(np.abs(turn) > 1e-20, turn, np.inf)[:, None]
    by_u = ((b - a) * two[:, 1:] - (c - a) * one[:, 1:]) / safe
    by_v = ((c - a) * one[:, :1] - (b - a) * two[:, :1]) / safe
    return (by_u / size[0]).astype(np.float32), (by_v / size[1]).astype(np.float32)
