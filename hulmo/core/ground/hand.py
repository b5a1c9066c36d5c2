"""Hand paint over the ground rules: how what was painted and what the rules say add up to weights.

With R the weights the rules give (the base ground where there are none) and H the hand paint of each ground, whose sum h is
how far the hand overrides the rules (0 to 1), the weights are

    weight = H + (1 - h) R.

Rules change R and leave H; brushes change H and leave R. So hand paint stays on top whatever the rules do.
"""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.weights import HAND, RULED, WEIGHT, filled
from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import GUARD, Body

Rows = NDArray[np.int32]
Weights = NDArray[np.float32]


def hand_share(body: Body, rows: Rows | slice) -> NDArray[np.float32]:
    """(K,) how far hand paint overrides the rules at some rows: 0 not at all, 1 wholly."""
    if HAND not in body.vertices:
        count = body.vertices.count
        return np.zeros(len(range(*rows.indices(count))) if isinstance(rows, slice) else rows.size, np.float32)
    return np.asarray(np.minimum(body.vertices[HAND][rows].sum(axis=1), np.float32(1.0)))


def ruled_at(body: Body, grounds: int, rows: Rows) -> Weights:
    """(K, grounds) what the rules say at some rows: the base ground without rules."""
    if RULED in body.vertices:
        return np.take(body.vertices[RULED], rows, axis=0)
    return filled(rows.size, grounds, body.base)


def guarded(body: Body, rows: Rows | slice, ruled: Weights) -> Weights:
    """(K, grounds) what the rules are to say at some rows: what they say now, and what they said where the guard keeps it."""
    if GUARD not in body.vertices or RULED not in body.vertices:
        return ruled
    before, guard = body.vertices[RULED][rows], body.vertices[GUARD][rows]
    if before.shape != ruled.shape or not guard.any():
        return ruled
    return np.asarray(ruled + guard * (before - ruled), np.float32)


def added_up(hand: Weights, ruled: Weights) -> Weights:
    """(K, G) weights from hand paint and rules; they sum to 1."""
    left = np.float32(1.0) - np.minimum(hand.sum(axis=1, keepdims=True), np.float32(1.0))
    weight = np.maximum(hand + left * ruled, np.float32(0.0))
    return np.asarray(weight / weight.sum(axis=1, keepdims=True))


def add_up(body: Body, grounds: int, rows: Rows) -> None:
    """Write the weights of some rows from their hand paint and their rules."""
    ruled = ruled_at(body, grounds, rows)
    if HAND in body.vertices:
        ruled = added_up(np.take(body.vertices[HAND], rows, axis=0), ruled)
    body.vertices[WEIGHT][rows] = ruled


@kernel(
    "void(float32[:,::1], float32[:,::1], float32[:,::1], int64, int32[::1], float32[::1], boolean[::1], int64, int64, "
    "float32[:,::1], float32[:,::1])"
)
def _settle(
    weight: Weights,
    hand: Weights,
    ruled: Weights,
    base: int,
    rows: Rows,
    amount: NDArray[np.float32],
    locked: NDArray[np.bool_],
    most: int,
    in_hand: int,
    new: Weights,
    out: Weights,
) -> None:
    grounds = weight.shape[1]
    for i in range(rows.size):
        row = rows[i]
        # locked grounds keep their weight; the others share what is left
        kept = 0.0
        free = 0.0
        for g in range(grounds):
            if locked[g]:
                new[i, g] = weight[row, g]
                kept += weight[row, g]
            else:
                new[i, g] = max(new[i, g], np.float32(0.0))
                free += new[i, g]
        if free <= 1e-7:
            for g in range(grounds):
                new[i, g] = weight[row, g]
        else:
            scale = max(1.0 - kept, 0.0) / free
            for g in range(grounds):
                if not locked[g]:
                    new[i, g] = new[i, g] * scale
        # the least grounds go until no more meet than may
        there = 0
        for g in range(grounds):
            if new[i, g] > 0.0:
                there += 1
        while there > most:
            least = -1
            for g in range(grounds):
                if new[i, g] > 0.0 and not locked[g] and g != in_hand and (least < 0 or new[i, g] < new[i, least]):
                    least = g
            if least < 0:
                break
            gone = new[i, least]
            new[i, least] = 0.0
            there -= 1
            rest = 0.0
            for g in range(grounds):
                if not locked[g]:
                    rest += new[i, g]
            if rest <= 1e-7:
                new[i, least] = gone
                break
            for g in range(grounds):
                if not locked[g]:
                    new[i, g] = new[i, g] * ((rest + gone) / rest)
        # how much of the rules can still be in it: none of them may be larger than what lies there
        painted = 0.0
        for g in range(grounds):
            painted += hand[row, g]
        left = max(1.0 - painted, 0.0) * (1.0 - min(np.float64(amount[i]), 1.0))
        if ruled.shape[0] == 0:
            left = min(left, np.float64(new[i, base]))
        else:
            for g in range(grounds):
                if ruled[row, g] > 0.0:
                    left = min(left, np.float64(new[i, g]) / ruled[row, g])
        for g in range(grounds):
            says = np.float64(ruled[row, g]) if ruled.shape[0] else (1.0 if g == base else 0.0)
            out[i, g] = max(new[i, g] - left * says, 0.0)


def settle(
    body: Body,
    rows: Rows,
    amount: NDArray[np.float32],
    new: Weights,
    locked: NDArray[np.bool_],
    most: int,
    in_hand: int = -1,
) -> tuple[Weights, Weights]:
    """What a paint brush leaves: weights within the bounds of the palette, and the hand paint that they amount to.

    Parameters
    ----------
    body : Body
        With columns of weight and hand paint.
    rows : (K,) int32
    amount : (K,) float32
        How much the brush touched each row, 0 to 1.
    new : (K, G) float32
        Weights the brush wants.
    locked : (G,) bool
        Grounds whose weight never changes.
    most : int
        Grounds that may meet at a vertex; the smallest ones go where there are more.
    in_hand : int
        A ground that never goes for that reason.

    Returns
    -------
    weight : (K, G) float32
        They sum to 1.
    hand : (K, G) float32
        The touched share becomes hand paint, and more where what lies there cannot come from the rules.
    """
    vertices = body.vertices
    ruled = vertices[RULED] if RULED in vertices else np.empty((0, new.shape[1]), np.float32)
    weight, hand = np.array(new, np.float32, order="C"), np.empty(new.shape, np.float32)
    _settle(vertices[WEIGHT], vertices[HAND], ruled, body.base, rows, amount, locked, most, in_hand, weight, hand)
    return weight, hand
