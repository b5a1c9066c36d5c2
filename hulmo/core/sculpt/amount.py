"""How much of a brush each vertex gets from one dab, by the three ways a stroke can add up."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, written_into_kernels
from hulmo.core.mesh.moment import NOW, Earlier, Slots, place_at
from hulmo.core.sculpt.falloff import FALLOFFS, NO_CURVE, falloff_at

Rows = NDArray[np.int32]
Points = NDArray[np.float32]


@written_into_kernels
def _amounts(
    position: Points,
    start: Points,
    slot: Slots,
    rows: Rows,
    centre: NDArray[np.float64],
    radius: float,
    core: float,
    kind: int,
    strength: float,
    coat: bool,
    approach: bool,
    cover: NDArray[np.float32],
    table: NDArray[np.float64],
    out: NDArray[np.float32],
    then: bool,
) -> None:
    for i in range(rows.size):
        row = rows[i]
        px, py, pz = place_at(position, start, slot, row, then)
        x = px - centre[0]
        y = py - centre[1]
        z = pz - centre[2]
        share = np.sqrt(x * x + y * y + z * z) / radius
        if share >= 1.0:
            out[i] = 0.0
            continue
        value = strength
        if share > core:
            value *= falloff_at(kind, (share - core) / (1.0 - core), table)
        if coat:
            had = cover[row]
            full = np.float32(value)
            if full > had:
                out[i] = (full - had) / (np.float32(1.0) - had) if approach else full - had
                cover[row] = full
            else:
                out[i] = 0.0
        else:
            out[i] = value


@kernel(
    "void(float32[:,::1], float32[:,::1], int32[::1], int32[::1], float64[::1], float64, float64, int64, float64, "
    "boolean, boolean, float32[::1], float64[::1], float32[::1])"
)
def _amount(
    position: Points,
    start: Points,
    slot: Slots,
    rows: Rows,
    centre: NDArray[np.float64],
    radius: float,
    core: float,
    kind: int,
    strength: float,
    coat: bool,
    approach: bool,
    cover: NDArray[np.float32],
    table: NDArray[np.float64],
    out: NDArray[np.float32],
) -> None:
    if slot.size:
        _amounts(
            position, start, slot, rows, centre, radius, core, kind, strength, coat, approach, cover, table, out, True
        )
    else:
        _amounts(
            start, start, slot, rows, centre, radius, core, kind, strength, coat, approach, cover, table, out, False
        )


def dab_amount(
    position: Points,
    rows: Rows,
    centre: NDArray[np.float64],
    radius: float,
    core: float,
    falloff: str,
    strength: float,
    cover: NDArray[np.float32] | None,
    table: NDArray[np.float64] = NO_CURVE,
    approach: bool = False,
    before: Earlier | None = None,
) -> NDArray[np.float32]:
    """Share of the full effect that each row gets from one dab.

    Parameters
    ----------
    position : (N, 3) float32
    rows : (K,) int32
    centre : (3,) float64
        Metres.
    radius : float
        Metres.
    core : float
        Share of the radius with full strength, 0 to below 1.
    falloff : str
        See `hulmo.core.sculpt.falloff`.
    strength : float
        Effect at the centre.
    cover : (N,) float32 or None
        What every vertex has had so far in this coat; written. With it, a vertex gets only what is missing to the
        largest value that any dab asks for, so crossing a stroke adds nothing. None: dabs add up.
    table : (S,) float64
        The drawn falloff curve, for the falloff "curve".
    approach : bool
        For brushes that go toward a value: within a coat a vertex gets its share of what is left of the way, so that many
        dabs come exactly as far as one of full amount.
    before : tuple, optional
        Positions as they were when the stroke began, and which rows they hold for: distances are then measured there.

    Returns
    -------
    (K,) float32
    """
    out = np.empty(rows.size, np.float32)
    none = np.empty(0, np.float32) if cover is None else cover
    kind = FALLOFFS.index(falloff)
    start, slot = before or (position, NOW)
    _amount(
        position,
        start,
        slot,
        rows,
        centre,
        radius,
        core,
        kind,
        strength,
        cover is not None,
        approach,
        none,
        table,
        out,
    )
    return out
