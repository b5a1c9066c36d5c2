"""Where a body's tables count from: zero, but for bodies that lie so far out that float32 tells places too coarsely apart."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.low_high import low_high
from hulmo.core.mesh.attribute import FARTHEST
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import REST

FAR = 4096.0
"""Metres from zero up to which tables count from zero: float32 tells less than half a millimetre apart there."""

Place = tuple[float, float, float]


def origin_of(position: NDArray[np.floating]) -> Place:
    """Zero for what lies near it; else the middle of (N, 3) places in whole metres, so that its sums are exact."""
    if float(np.abs(position).max(initial=0.0)) <= FAR:
        return 0.0, 0.0, 0.0
    low, high = low_high(position)
    x, y, z = np.round((low.astype(np.float64) + high) / 2)
    return float(x), float(y), float(z)


def about(position: NDArray[np.floating], origin: Place) -> NDArray[np.float32]:
    """(N, 3) places of the world about an origin, rounded to float32 only then."""
    return np.ascontiguousarray(np.asarray(position, np.float64) - origin, np.float32)


def too_far(position: NDArray[np.floating]) -> bool:
    """Whether places are further from an origin than tables may hold, or not finite."""
    with np.errstate(over="ignore", invalid="ignore"):
        return not bool((np.abs(position) <= FARTHEST).all())


def shifted(other: Body, body: Body) -> NDArray[np.float32]:
    """(N, 3) positions of another body about the origin of a body.

    Raises
    ------
    InvalidInput
        They lie too far apart.
    """
    if other.origin == body.origin:
        return other.vertices["position"]
    out = other.vertices["position"] + (np.array(other.origin) - body.origin)
    if too_far(out):
        raise InvalidInput(f"{other.name!r} lies more than {FARTHEST:g} m from {body.name!r}; move them nearer first")
    return np.ascontiguousarray(out, np.float32)


def recentre(body: Body) -> None:
    """Give a body that lies far out about zero an origin near it; files from before there were origins hold such."""
    origin = origin_of(body.vertices["position"])
    if not any(origin) or body.far:
        return
    for name in ("position", REST):
        if name in body.vertices:
            body.vertices[name][:] = about(body.vertices[name], origin)
    body.origin = origin
    body.replaced()


OUTERMOST = 1.0e10
"""Metres from zero that anything of a scene may be: doubles still tell 2 micrometres apart there."""


def check_place(place: Place, where: str) -> None:
    """Refuse a place, or a way, that is not finite or goes further than anything may be.

    Raises
    ------
    InvalidInput
    """
    if not all(np.isfinite(value) and abs(value) <= OUTERMOST for value in place):
        raise InvalidInput(f"{where} must be three finite numbers of metres, {OUTERMOST:g} at the most")


def put(
    position: NDArray[np.float32],
    origin: Place,
    matrix: NDArray[np.float64],
    middle: NDArray[np.float64],
    move: NDArray[np.float64],
) -> tuple[Place, NDArray[np.float32]]:
    """Turn and stretch places about a middle and move them; computed in double precision.

    Parameters
    ----------
    position : (N, 3) float32
        Metres about `origin`.
    origin : (x, y, z)
    matrix : (3, 3) float64
    middle : (3,) float64
        Metres about `origin`.
    move : (3,) float64
        Metres.

    Returns
    -------
    origin : (x, y, z)
        As it was, as long as the places lie near it; moved along where they would not.
    position : (N, 3) float32

    Raises
    ------
    InvalidInput
        They would lie further out than anything may be.
    """
    turned = (position.astype(np.float64) - middle) @ matrix.T + middle
    near = turned + move
    if float(np.abs(near).max(initial=0.0)) <= FAR:
        new = origin
    else:
        world = near + origin
        if not float(np.abs(world).max(initial=0.0)) <= OUTERMOST:
            raise InvalidInput(f"the body would lie more than {OUTERMOST:g} m from zero; move it less")
        new = origin_of(world)
        near = world - new
    if too_far(near):
        raise InvalidInput(f"the body would reach further than {FARTHEST:g} m from its middle; make it smaller")
    return new, np.ascontiguousarray(near, np.float32)
