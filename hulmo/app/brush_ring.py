"""The ring of a brush at a surface point."""

import numpy as np

from hulmo.app.overlay import Ring
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.sculpt.brush import Brush
from hulmo.core.sculpt.ring import draped_ring
from hulmo.core.setting import Values, number

NOTHING = np.empty((0, 3))


def brush_ring(body: Body, brush: Brush, values: Values, hit: SurfacePoint, inverted: bool) -> Ring:
    """Rim and core draped on the surface, and a stalk in the direction the brush will push."""
    radius, core = number(values, "radius"), number(values, "core") / 100
    normal = body.normal_at(hit)
    push = np.array([0.0, 1.0, 0.0]) if values.get("direction") == "up" else normal
    if inverted and brush.inverse:
        push = -push
    stalk = np.stack((hit.position, hit.position + push * radius * 0.45))
    return Ring(
        draped_ring(body, hit.position, normal, radius),
        draped_ring(body, hit.position, normal, radius * core, 32) if core > 0.02 else NOTHING,
        stalk if brush.column == "position" else NOTHING,
        f"{radius:.3g} m",
        number(values, "strength") > 0,
    )
