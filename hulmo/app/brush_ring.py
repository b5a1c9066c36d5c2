"""The ring of a brush at a surface point."""

import numpy as np
from numpy.typing import NDArray

from hulmo.app.overlay import Ring
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.layer import FORM
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.sculpt.brush import Brush
from hulmo.core.sculpt.direction import axis_vector
from hulmo.core.sculpt.ring import draped_over, draped_ring, lie_around
from hulmo.core.sculpt.symmetry import copies
from hulmo.core.setting import Values, number

NOTHING = np.empty((0, 3))

FINE, HASTY = (56, 6), (28, 3)
FINE_CORE, HASTY_CORE = (32, 4), (18, 2)
"""Points of a ring, and steps of the walk to each."""

KEPT = 0.98
"""Guard from which a brush counts as doing nothing."""

MOST_TWINS = 11
"""Symmetric copies whose rings are shown."""


def brush_ring(
    body: Body,
    brush: Brush,
    values: Values,
    hit: SurfacePoint,
    inverted: bool,
    looking: NDArray[np.float64],
    hasty: bool = False,
    others: tuple[Body, ...] = (),
) -> Ring:
    """Rim and core draped on the surface, and a stalk in the direction the brush will push.

    `looking` is the direction of the pointer's ray; `hasty` draws the rings less finely, for while a stroke goes on; where
    the body ends, the rim goes on over `others`.
    """
    fine, fine_core = (HASTY, HASTY_CORE) if hasty else (FINE, FINE_CORE)
    radius = number(values, "radius")
    core = number(values, "core") / 100 if "core" in values else 0.0
    normal = body.normal_at(hit)
    push = {
        "up": np.array([0.0, 1.0, 0.0]),
        "viewer": looking / np.linalg.norm(looking),
        "axis": axis_vector(number(values, "bearing"), number(values, "altitude")) if "bearing" in values else normal,
    }.get(str(values.get("direction")), normal)
    if inverted and brush.inverse:
        push = -push
    stalk = np.stack((hit.position, hit.position + push * radius * 0.45))
    lie = lie_around(body, hit.triangle, hit.position, normal, radius)
    near = tuple(other for other in others if other.nearest(hit.position, radius) is not None)
    return Ring(
        draped_over((body, *near), hit.position, lie, radius, fine[0])
        if near
        else draped_ring(body, hit.position, lie, radius, *fine),
        draped_ring(body, hit.position, lie, radius * core, *fine_core) if core > 0.02 else NOTHING,
        stalk if brush.shapes and not brush.remeshes else NOTHING,
        f"{radius:.3g} m" if brush.grows(values) == "off" else f"{radius:.3g} m, edges {number(values, 'edge'):.2g} m",
        values.get("strength") != 0.0 and (brush.column == GUARD or _guard_at(body, hit) < KEPT),
    )


def twin_rims(
    body: Body, values: Values, ray: tuple[NDArray[np.float64], NDArray[np.float64]]
) -> list[NDArray[np.float64]]:
    """Rims of the symmetric copies of a brush."""
    rims = []
    for turn in copies(values)[1 : MOST_TWINS + 1]:
        hit = body.ray(turn @ ray[0], turn @ ray[1])
        if hit is not None:
            radius = number(values, "radius")
            lie = lie_around(body, hit.triangle, hit.position, body.normal_at(hit), radius)
            rims.append(draped_ring(body, hit.position, lie, radius, 24))
    return rims


def layer_takes(body: Body, layer: str) -> bool:
    """Whether a shaping brush can work on a layer as it is."""
    found = next((entry for entry in body.layers if entry.name == layer), None)
    return layer == FORM or (found is not None and not found.locked and found.share != 0)


def _guard_at(body: Body, hit: SurfacePoint) -> float:
    if GUARD not in body.vertices:
        return 0.0
    rows = body.corners.vertex[3 * hit.triangle : 3 * hit.triangle + 3]
    return float(hit.weights @ body.vertices[GUARD][rows, 0])


def plain_ring(body: Body, hit: SurfacePoint, radius: float, hasty: bool = False) -> Ring:
    """Rim of a brush that has nothing but a radius."""
    lie = lie_around(body, hit.triangle, hit.position, body.normal_at(hit), radius)
    rim = draped_ring(body, hit.position, lie, radius, *(HASTY if hasty else FINE))
    return Ring(rim, NOTHING, NOTHING, f"{radius:.3g} m")
