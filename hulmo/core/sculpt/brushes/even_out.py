"""Even out: slide vertices along the surface until triangles are well shaped."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.sculpt.brush import Brush, Dab
from hulmo.core.sculpt.brushes.smooth import umbrella
from hulmo.core.sculpt.repeat import repeated
from hulmo.core.setting import Number, number


def apply(dab: Dab) -> NDArray[np.float32]:
    """(K, 3) new positions, metres: toward the middle of the one-ring, without the part along the row's normal.

    Borders stay.

    Notes
    -----
    Tangential relaxation as in Botsch and Kobbelt, "A remeshing approach to multiresolution modeling" (2004).
    """
    amount = np.minimum(dab.amount, np.float32(1.0))
    steps = [lambda: umbrella(dab, amount, along=True)]
    return repeated(dab.surface, dab.rows, steps, int(number(dab.values, "passes")))


BRUSH = Brush(
    name="even_out",
    label="Even out",
    help="Slides vertices along the surface, so that triangles are well shaped.",
    key="E",
    stage="sculpt",
    group="Mesh",
    column="position",
    settings=(
        Number(
            "passes", "Passes", "", 1, 20, 3, "How often every dab evens out.", comfort=(1, 10), whole=True,
        ),
    ),
    apply=apply,
    defaults=(("build_up", "stacking"), ("strength", 80.0)),
)  # fmt: skip
