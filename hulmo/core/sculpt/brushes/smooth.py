"""Smooth: draw every vertex toward the middle of its neighbours."""

from functools import partial

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.ring_means import ring_means
from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.repeat import repeated
from hulmo.core.setting import Choice, Number, number

Points = NDArray[np.float32]


def umbrella(dab: Dab, amount: NDArray[np.float32], along: bool = False) -> Points:
    """(K, 3) positions a share of the way from each row of a dab to the mean of its one-ring (of its border neighbours).

    `along` leaves out the part of the way along the row's normal, and keeps borders where they are.
    """
    return ring_means(dab.surface, dab.body.corners, dab.rows, amount, dab.body.vertices["normal"], along)


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
    amounts = [dab.amount]
    if dab.values["kind"] == "gentle":
        forth = np.minimum(dab.amount, np.float32(1.0)) * np.float32(0.6)
        amounts = [forth, -forth / (np.float32(1.0) - np.float32(PASS_BAND) * forth)]
    steps = [partial(umbrella, dab, amount) for amount in amounts]
    return repeated(dab.surface, dab.rows, steps, int(number(dab.values, "passes")))


BRUSH = Brush(
    name="smooth",
    label="Smooth",
    help="Evens out bumps. Shift does it with any brush.",
    key="S",
    stage="sculpt",
    group="Flatten",
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
