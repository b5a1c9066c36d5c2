"""What commands on texture coordinates share: sets, faces, the edit."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand.choice import as_domain, chosen, live
from hulmo.core.edit import Edit, SlotColumnDelta
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.body import Body
from hulmo.core.uv.laid import Laid
from hulmo.core.uv.sets import uv_column

Uv = NDArray[np.float64]

FARTHEST = 1e5
"""Units from 0 that texture coordinates may lie."""

CORNERS = ("all", "chosen", "charts", "edges", "vertices")
"""What can be meant: all faces, the chosen ones, charts in which some are chosen, the ends of chosen edges, vertices."""


def known_uv(body: Body, name: str, where: str) -> NDArray[np.float32]:
    """(M, 3, 2) of a set; raises InvalidInput where there is none."""
    found = body.corners.slots.get(uv_column(name, where))
    if found is None:
        raise InvalidInput(f"{where}: {body.name!r} has no UV{f' {name!r}' if name else ''}; lay or unwrap it first")
    return found


def laid_in(body: Body, name: str, where: str) -> Laid:
    """How a body lies in a set; raises InvalidInput where there is none, or no face."""
    known_uv(body, name, where)
    faces_of(body, "all", where)
    return Laid.of(body, uv_column(name, where))


def faces_of(body: Body, which: str, where: str) -> NDArray[np.int32]:
    """Slots of all faces or of the chosen ones; raises InvalidInput where there are none."""
    if which not in ("all", "chosen"):
        raise InvalidInput(f"{where}: faces is {shown(which)}; it must be all or chosen")
    live = body.corners.triangles[:, 0] >= 0
    mask = live & chosen(body, "face") if which == "chosen" else live
    if not mask.any():
        raise InvalidInput(f"{where}: no face of {body.name!r} is chosen; choose some first")
    return np.flatnonzero(mask).astype(np.int32)


def corners_of(body: Body, which: str, column: str, where: str) -> NDArray[np.bool_]:
    """(M, 3) corners that are meant: of all faces, of what is chosen, or of the charts that it lies in in a corner column.

    Raises
    ------
    InvalidInput
        Other words, or nothing chosen.
    """
    if which not in CORNERS:
        raise InvalidInput(f"{where}: faces is {shown(which)}; it must be one of {', '.join(CORNERS)}")
    if which in ("all", "chosen", "charts"):
        slots = faces_of(body, "all" if which == "all" else "chosen", where)
        if which == "charts":
            slots = whole_charts(Laid.of(body, column), slots)
        mask = np.zeros((body.corners.count, 3), np.bool_)
        mask[slots] = True
        return mask
    domain = "edge" if which == "edges" else "vertex"
    found = chosen(body, domain)
    if not found.any():
        raise InvalidInput(f"{where}: no {domain} of {body.name!r} is chosen; choose some first")
    rows = as_domain(body, found, domain, "vertex")
    return np.asarray(rows[body.corners.triangles] & live(body.corners)[:, None])


def whole_charts(laid: Laid, slots: NDArray[np.integer]) -> NDArray[np.int32]:
    """Slots of the charts in which some slots lie."""
    return laid.slots[np.isin(laid.chart, laid.chart[np.isin(laid.slots, slots)])]


def surface_of(body: Body, of: str, where: str) -> NDArray[np.float32]:
    """(N, 3) the surface as it is, or with its relief layers off."""
    if of not in ("surface", "form"):
        raise InvalidInput(f"{where}: of is {shown(of)}; it must be surface or form")
    return body.vertices["position"] if of == "surface" else body.surface(None)


def laid_uv(body: Body, slots: NDArray[np.int32], uv: Uv, name: str, label: str, where: str) -> Edit:
    """The edit that lays (K, 3, 2) coordinates on slots; raises InvalidInput where they would lie too far out."""
    if uv.size and not (uv.max() <= FARTHEST and uv.min() >= -FARTHEST):  # what is no number fits neither
        raise InvalidInput(
            f"{where}: UV would lie more than {FARTHEST:g} from 0; choose a larger unit or a smaller factor"
        )
    column = uv_column(name, where)
    old = body.corners.slots.get(column)
    if slots.size == body.corners.count:
        new = uv.astype(np.float32)
    else:
        new = np.zeros((body.corners.count, 3, 2), np.float32) if old is None else old.copy()
        new[slots] = uv
    return Edit(label, (SlotColumnDelta(body.ident, "corner", column, None if old is None else old.copy(), new),))
