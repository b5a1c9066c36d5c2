"""Ledge: build flat-topped strips of rock, orderly but not too orderly."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.noise import fbm
from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.setting import Number, number

UNDERCUT = 0.4
"""Share of a strip's thickness over which it swings out from the strip below."""


def jut(level: NDArray[np.float64], irregularity: float, seed: int) -> NDArray[np.float64]:
    """How far strips of rock jut out, as a share of the full height.

    Parameters
    ----------
    level : (K,) float64
        Height in strips: the whole part names the strip, the rest is the place in it, 0 at its foot, 1 at its top.
    irregularity : float
        0: all strips alike. 1: strips jut out between nothing and all of it.
    seed : int

    Returns
    -------
    (K,) float64
        0 at the foot of a strip, swinging out smoothly, then straight up to its flat top, where the next strip begins at 0.
    """
    strip = np.floor(level)
    place = np.clip((level - strip) / UNDERCUT, 0.0, 1.0)
    # one even random number a strip: the fractional part of a steep sine, as is common in shaders
    chance = np.modf(np.abs(np.sin(strip * 127.1 + seed * 311.7) * 43758.5453))[0]
    out: NDArray[np.float64] = place * place * (3.0 - 2.0 * place) * (1.0 - irregularity * chance)
    return out


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 3) new positions, metres: out of the wall, level, by amount times height times `jut`.

    The way is the level part of the row's own normal, so walls and overhangs get strips and level ground stays. No row
    changes its height, so dabs of one stroke agree about where strips lie.
    """
    values = dab.values
    irregularity = number(values, "irregularity") / 100.0
    thickness, seed = number(values, "thickness"), int(number(values, "seed"))
    position = np.take(dab.surface, dab.rows, axis=0)
    # beds that are not quite level: bent by up to half a strip over some ten strips
    body = dab.body
    places = body.down.level_places(dab.own(position), body.origin)
    bend = fbm(places, 10.0 * thickness, 2, seed) * irregularity * 0.5
    level = body.heights(position) / thickness + bend
    way, up = dab.normals(dab.rows), body.up(position)
    way -= ((way * up).sum(axis=1)[:, None] * up).astype(np.float32)
    step = dab.amount * jut(level, irregularity, seed) * number(values, "height")
    position += way * step.astype(np.float32)[:, None]
    return position


BRUSH = Brush(
    name="ledge",
    label="Ledge",
    help="Builds flat-topped strips of rock on walls.",
    key="D",
    stage="sculpt",
    group="Break up",
    column="position",
    settings=(
        Number(
            "height", "Jut", "m", 0.0, 10_000.0, 0.8, "How far a strip juts out of the wall.",
            comfort=(0.05, 10.0), curve=3.0,
        ),
        Number(
            "thickness", "Thickness", "m", 0.01, 10_000.0, 2.0, "From the foot of one strip to the foot of the next.",
            comfort=(0.1, 20.0), curve=3.0,
        ),
        Number("irregularity", "Irregularity", "%", 0.0, 100.0, 40.0, "How unlike each other strips are, and how bent."),
        Number("seed", "Seed", "", 0, 9999, 1, "Another number gives another pattern.", whole=True),
    ),
    apply=apply,
    defaults=(("strength", 100.0), ("radius", 5.0), ("core", 40.0)),
)  # fmt: skip
