"""How far what is moved by hand takes the rest along."""

from typing import Any
from weakref import WeakKeyDictionary

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand.choice import Mask
from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.geodesic import geodesic

Rows = NDArray[np.int32]

_HELD: WeakKeyDictionary[Body, tuple[Any, Rows | slice, NDArray[np.int32], Rows, NDArray[np.float32]]] = (
    WeakKeyDictionary()
)
"""What was asked for, the rows it follows from, their places bit by bit, and what came of it."""

FALLOFFS = ("smooth", "dome", "sharp", "linear")


def soft_reach(body: Body, chosen: Mask, reach: float, over: str, falloff: str) -> tuple[Rows, NDArray[np.float32]]:
    """Rows that go along with the chosen ones, ascending, and how much of the way: 1 for those chosen.

    Parameters
    ----------
    body : Body
    chosen : (N,) bool
    reach : float
        Metres from the nearest chosen vertex at which nothing goes along any more; 0 for the chosen ones alone.
    over : str
        "surface": measured along it. "space": straight.
    falloff : str
        One of `FALLOFFS`: (1 - t)² (1 + 2 t), sqrt(1 - t²), (1 - t)², 1 - t.
    """
    rows = np.flatnonzero(chosen).astype(np.int32)
    if reach <= 0 or not rows.size:
        return rows, np.ones(rows.size, np.float32)
    # a drag asks again and again from the same surface: every step is taken back before the next one
    key = (rows.tobytes(), reach, over, falloff, body.remeshed)
    position = body.vertices["position"]
    held = _HELD.get(body)
    if held is None or held[0] != key or not np.array_equal(held[2], position[held[1]].view(np.int32)):
        share = _shares(body, rows, reach, over, falloff)
        near = np.flatnonzero(share > 0).astype(np.int32)
        # over the surface it follows from what is within reach and its neighbours, through space from everything
        of: Rows | slice = body.touched(near).around if over == "surface" else slice(None)
        held = _HELD[body] = (key, of, position[of].view(np.int32).copy(), near, share[near])
    return held[3], held[4]


def _shares(body: Body, rows: Rows, reach: float, over: str, falloff: str) -> NDArray[np.float32]:
    position = body.vertices["position"]
    if over == "surface":
        away = geodesic(position, body.corners, rows, reach).astype(np.float64)
    else:
        from scipy.spatial import KDTree  # see `mesh.graph`

        low, high = low_high(position[rows])
        low, high = low - reach, high + reach
        near = np.flatnonzero(((position >= low) & (position <= high)).all(axis=1))
        away = np.full(position.shape[0], np.inf)
        away[near] = KDTree(position[rows]).query(position[near], distance_upper_bound=reach)[0]
    t = np.clip(away / reach, 0.0, 1.0)
    share = {
        "smooth": lambda: (1 - t) ** 2 * (1 + 2 * t),
        "dome": lambda: np.sqrt(1 - t * t),
        "sharp": lambda: (1 - t) ** 2,
        "linear": lambda: 1 - t,
    }[falloff]()
    return np.where(body.corners.first_corner >= 0, share, 0.0).astype(np.float32)
