"""Borders that meet those of other bodies and do not fit them."""

import numpy as np

from hulmo.core.care.check import NOTHING, Check, Found, live_slots
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.seam import Seam, border_of, seam_between
from hulmo.core.progress import Progress
from hulmo.core.setting import Number


def find(body: Body, limit: float, progress: Progress) -> Found:
    """Nothing: a body by itself fits."""
    return NOTHING


def find_beside(body: Body, others: tuple[Body, ...], limit: float, progress: Progress) -> Found:
    """Border vertices within `limit` metres of a border vertex of another body that differ from it in place, normal or
    grounds."""
    bodies = (body, *(other for other in others if other.shown))
    seam = seam_between(bodies, [border_of(entry) for entry in bodies], limit)
    mine = np.zeros(seam.count, np.bool_)
    mine[seam.place[seam.body == 0]] = True
    if not mine.any():
        return NOTHING
    seam, _ = seam.part(mine)
    columns = ["position", "normal"]
    if all(WEIGHT in entry.vertices for entry in bodies):
        columns.append(WEIGHT)
    apart = {name: _apart(seam, name) for name in columns}
    wrong = np.any([values > 0 for values in apart.values()], axis=0)
    if not wrong.any():
        return NOTHING
    at, rows = seam.of(0)
    bad = np.zeros(body.vertices.count)
    bad[rows] = np.sum(list(apart.values()), axis=0)[seam.place[at]]
    slots = live_slots(body)
    worst = bad[body.corners.triangles[slots]].max(axis=1)
    order = slots[worst > 0][np.argsort(-worst[worst > 0], kind="stable")]
    words = f"{1000 * apart['position'].max():.3g} mm apart"
    degrees = np.degrees(2 * np.arcsin(np.clip(apart["normal"].max() / 2, 0, 1)))
    words += f", normals by {degrees:.3g} degrees"
    if WEIGHT in apart:
        words += f", grounds by {100 * apart[WEIGHT].max():.3g} %"
    return Found(int(wrong.sum()), order, words)


def _apart(seam: Seam, column: str) -> np.ndarray:
    # how far the vertices of each place are apart in a column at the most
    values = seam.positions() if column == "position" else seam.values(column)
    high, low = np.full((seam.count, values.shape[1]), -np.inf), np.full((seam.count, values.shape[1]), np.inf)
    np.maximum.at(high, seam.place, values)
    np.minimum.at(low, seam.place, values)
    return np.asarray(np.linalg.norm(high - low, axis=1))


CHECK = Check(
    "misfit", "Borders that do not fit", "Where the border of another body meets this one: another place, normal or ground.",
    Number("limit", "Borders meet within", "m", 1e-5, 100.0, 0.001, "Border vertices of two bodies that are closer to each "
           "other belong together.", curve=3.0),
    find, "stitch", "Stitch", "Gives border vertices that belong together one place, one normal and the same grounds, and "
    "keeps them so.", find_beside,
)  # fmt: skip
