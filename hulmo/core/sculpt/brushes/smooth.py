"""Smooth: draw every vertex toward the middle of its neighbours."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.one_ring import next_corner, previous_corner
from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.setting import Choice, Number, number

Corners = NDArray[np.int32]
Points = NDArray[np.float32]


@kernel(
    "void(float32[:,::1], int32[::1], int32[::1], int32[::1], int32[::1], float32[::1], float32[:,::1], boolean, "
    "float32[:,::1])"
)
def _smooth(
    position: Points,
    vertex: Corners,
    opposite: Corners,
    first: Corners,
    rows: Corners,
    amount: NDArray[np.float32],
    normal: Points,
    along: bool,
    out: Points,
) -> None:
    for i in range(rows.size):
        row = rows[i]
        x = 0.0
        y = 0.0
        z = 0.0
        count = 0
        start = first[row]
        corner = start
        border = start < 0
        while start >= 0:
            other = vertex[next_corner(corner)]
            x += position[other, 0]
            y += position[other, 1]
            z += position[other, 2]
            count += 1
            across = opposite[next_corner(corner)]
            if across < 0:
                border = True
                break
            corner = next_corner(across)
            if corner == start:
                break
        if border and start >= 0:
            # along the border only, so that an open edge is rounded but never drawn inward
            other = vertex[previous_corner(corner)]
            x = np.float64(position[other, 0])
            y = np.float64(position[other, 1])
            z = np.float64(position[other, 2])
            corner = start
            while opposite[previous_corner(corner)] >= 0:
                corner = previous_corner(opposite[previous_corner(corner)])
            other = vertex[next_corner(corner)]
            x += position[other, 0]
            y += position[other, 1]
            z += position[other, 2]
            count = 2
        share = min(np.float64(amount[i]), 1.0)
        if count == 0:
            share = 0.0
            count = 1
        x = x / count - position[row, 0]
        y = y / count - position[row, 1]
        z = z / count - position[row, 2]
        if along:
            if border:
                share = 0.0
            away = x * normal[row, 0] + y * normal[row, 1] + z * normal[row, 2]
            x -= away * normal[row, 0]
            y -= away * normal[row, 1]
            z -= away * normal[row, 2]
        out[i, 0] = position[row, 0] + share * x
        out[i, 1] = position[row, 1] + share * y
        out[i, 2] = position[row, 2] + share * z


def umbrella(dab: Dab, amount: NDArray[np.float32], along: bool = False) -> Points:
    """(K, 3) positions a share of the way from each row of a dab to the mean of its one-ring (of its border neighbours).

    `along` leaves out the part of the way along the row's normal, and keeps borders where they are.
    """
    return ring_means(dab.surface, dab.body.corners, dab.rows, amount, dab.body.vertices["normal"], along)


def ring_means(
    position: Points,
    corners: CornerTable,
    rows: Corners,
    amount: NDArray[np.float32],
    normal: Points,
    along: bool,
) -> Points:
    """(K, 3) positions a share of the way from some rows to the mean of their one-rings; see `umbrella`."""
    out = np.empty((rows.size, 3), np.float32)
    _smooth(position, corners.vertex, corners.opposite, corners.first_corner, rows, amount, normal, along, out)
    return out


PASS_BAND = 0.05
"""Frequency below which a pass that keeps volume changes nothing, as a share of Taubin's 0 to 2."""


def apply(dab: Dab) -> NDArray[np.float32]:
    """New positions: p + amount (mean of the one-ring - p), all rows from the same old state, `passes` times.

    Border vertices see their two border neighbours only. Vertices outside the brush stay where they are. The kind that
    keeps volume follows every step with one back, p - mu (mean - p), 1 / mu = 1 / amount - 0.05, so that bumps go and
    the form stays.

    Returns
    -------
    (K, 3) float32
        Metres.

    Notes
    -----
    The uniform ("umbrella") Laplacian, and its lambda | mu variant, of Taubin, "A signal processing approach to fair
    surface design" (1995).
    """
    position = dab.surface
    before = out = np.take(position, dab.rows, axis=0)
    steps = [dab.amount]
    if dab.values["kind"] == "gentle":
        forth = np.minimum(dab.amount, np.float32(1.0)) * np.float32(0.6)
        steps = [forth, -forth / (np.float32(1.0) - np.float32(PASS_BAND) * forth)]
    for _ in range(int(number(dab.values, "passes"))):
        for amount in steps:
            out = umbrella(dab, amount)
            position[dab.rows] = out
    position[dab.rows] = before  # a brush only says what the values are to be; the engine writes them
    return out


BRUSH = Brush(
    name="smooth",
    label="Smooth",
    help="Evens out bumps. Shift does it with any brush.",
    key="S",
    stage="sculpt",
    column="position",
    settings=(
        Choice(
            "kind",
            "Kind",
            (
                ("strong", "Strong", "Flattens form as well; a ball gets smaller."),
                ("gentle", "Keeps volume", "Takes bumps away and leaves the form."),
            ),
            "strong",
            "What is evened out.",
        ),
        Number(
            "passes",
            "Passes",
            "",
            1,
            50,
            3,
            "How often every dab evens out. More reach further over a fine mesh.",
            comfort=(1, 20),
            whole=True,
        ),
    ),
    apply=apply,
    defaults=(("build_up", "stacking"), ("strength", 60.0)),
)
