"""Props on a body: where each is anchored in its surface, and how it stands."""

from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable

Places = NDArray[np.float64]
Rows = NDArray[np.int32]

BY_HAND, BY_RULE, FIXED, REMOVED = 0, 1, 2, 3
"""Marks: set by brush, by a rule, fixed so that brushes pass over it, or taken away so that no rule sets one there."""

MOST_STREWN = 1_000_000
"""Props on one body."""

LONGEST_LEAN = 2.0
"""Largest tangent of a lean."""


@dataclass(frozen=True, eq=False)
class Strewn:
    """K props, anchored to triangles; 41 bytes each.

    Attributes
    ----------
    prop : (K,) int32
        Number in the tray.
    slot : (K,) int32
        Triangle slot that it stands on.
    weight : (K, 2) float32
        Weights of the second and third corner there.
    turn : (K,) float32
        Degrees about its own axis, counter-clockwise seen from its tip.
    size : (K,) float32
        Factor.
    lean : (K, 2) float32
        Tangents of how far it leans away from its axis, east and south before it was turned.
    sink : (K,) float32
        Metres that its pivot lies below the surface.
    upright : (K,) float32
        0 along the normal of the ground, 1 straight up.
    mark : (K,) uint8
        BY_HAND, BY_RULE, FIXED or REMOVED.
    """

    prop: Rows
    slot: Rows
    weight: NDArray[np.float32]
    turn: NDArray[np.float32]
    size: NDArray[np.float32]
    lean: NDArray[np.float32]
    sink: NDArray[np.float32]
    upright: NDArray[np.float32]
    mark: NDArray[np.uint8]

    @classmethod
    def none(cls) -> "Strewn":
        """No props."""
        return cls(**{name: np.empty((0, width) if width > 1 else 0, kind) for name, (kind, width) in LAYOUT.items()})

    @property
    def count(self) -> int:
        """Props, those taken away included."""
        return int(self.prop.size)

    @property
    def nbytes(self) -> int:
        """Bytes held."""
        return sum(getattr(self, entry.name).nbytes for entry in fields(self))

    @property
    def there(self) -> NDArray[np.bool_]:
        """(K,) those that are there: not taken away."""
        return np.asarray(self.mark != REMOVED)

    def taken(self, which: NDArray[np.bool_] | NDArray[np.integer]) -> "Strewn":
        """Some of them."""
        return Strewn(**{entry.name: np.ascontiguousarray(getattr(self, entry.name)[which]) for entry in fields(self)})

    def joined(self, other: "Strewn") -> "Strewn":
        """These and then others."""
        return Strewn(**{e.name: np.concatenate((getattr(self, e.name), getattr(other, e.name))) for e in fields(self)})

    def changed(self, **columns: NDArray[np.generic]) -> "Strewn":
        """With other columns."""
        given = {entry.name: columns.get(entry.name, getattr(self, entry.name)) for entry in fields(self)}
        return Strewn(**{name: np.ascontiguousarray(value, LAYOUT[name][0]) for name, value in given.items()})

    def differs(self, other: "Strewn") -> bool:
        """Whether any number is another one."""
        return self.count != other.count or any(
            not np.array_equal(getattr(self, entry.name), getattr(other, entry.name)) for entry in fields(self)
        )


LAYOUT: dict[str, tuple[type, int]] = {
    "prop": (np.int32, 1), "slot": (np.int32, 1), "weight": (np.float32, 2), "turn": (np.float32, 1),
    "size": (np.float32, 1), "lean": (np.float32, 2), "sink": (np.float32, 1), "upright": (np.float32, 1),
    "mark": (np.uint8, 1),
}  # fmt: skip
"""Kind and width of every column."""


def compacted(strewn: Strewn, corners: CornerTable) -> Strewn:
    """The same, once freed slots are left out of the triangles."""
    live = np.cumsum(corners.triangles[:, 0] >= 0) - 1
    return strewn.changed(slot=live[strewn.slot])


def anchors(body: Body, strewn: Strewn) -> tuple[Places, Places]:
    """(K, 3) places on the surface about the origin of the body, and unit normals there."""
    corners = body.corners.triangles[strewn.slot]
    share = np.empty((strewn.count, 3))
    share[:, 1:] = strewn.weight
    share[:, 0] = 1.0 - share[:, 1] - share[:, 2]
    place = np.einsum("ki,kij->kj", share, body.vertices["position"][corners].astype(np.float64))
    normal = np.einsum("ki,kij->kj", share, body.vertices["normal"][corners].astype(np.float64))
    length = np.linalg.norm(normal, axis=1, keepdims=True)
    return place, np.where(length > 1e-9, normal / np.maximum(length, 1e-30), body.up(place))


def axes(body: Body, strewn: Strewn, place: Places, normal: Places) -> Places:
    """(K, 3) unit vectors that props stand along."""
    up = body.up(place)
    share = strewn.upright.astype(np.float64)[:, None]
    axis = _unit(normal * (1.0 - share) + up * share, np.broadcast_to(up, place.shape))
    across, along = across_of(axis)
    lean = strewn.lean.astype(np.float64)
    return _unit(axis + lean[:, :1] * across + lean[:, 1:] * along, axis)


def across_of(axis: Places) -> tuple[Places, Places]:
    """+X and +Z turned the shortest way that takes +Y to (K, 3) unit vectors."""
    x, y, z = axis[:, 0], axis[:, 1], axis[:, 2]
    down = y < -0.99999
    s = 1.0 / np.where(down, 1.0, 1.0 + y)
    across = np.stack((1.0 - x * x * s, -x, -x * z * s), axis=1)
    along = np.stack((-x * z * s, -z, 1.0 - z * z * s), axis=1)
    across[down], along[down] = (1.0, 0.0, 0.0), (0.0, 0.0, -1.0)
    return across, along


def frames(body: Body, strewn: Strewn) -> tuple[Places, Places]:
    """(K, 3) places of pivots about the origin of the body, and (K, 3, 3) matrices from the space of each prop."""
    place, normal = anchors(body, strewn)
    axis = axes(body, strewn, place, normal)
    across, along = across_of(axis)
    turn = np.radians(strewn.turn.astype(np.float64))
    c, s = np.cos(turn)[:, None], np.sin(turn)[:, None]
    size = strewn.size.astype(np.float64)[:, None]
    matrix = np.stack(((c * across - s * along) * size, axis * size, (s * across + c * along) * size), axis=2)
    return place - axis * strewn.sink.astype(np.float64)[:, None], matrix


def _unit(way: Places, otherwise: Places) -> Places:
    length = np.linalg.norm(way, axis=1, keepdims=True)
    return np.where(length > 1e-9, way / np.maximum(length, 1e-30), otherwise)
