"""Memory of a body, index and stamp tables included."""

from collections.abc import Callable
from typing import Any

import numpy as np

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.forms import FORMS
from hulmo.core.sculpt.coat import COAT
from hulmo.core.setting import complete

LIMIT = 260


def bench_memory(say: Callable[[str], None]) -> list[dict[str, Any]]:
    """Bytes a vertex with 8 grounds, one relief layer, hand, guard and coat columns, without and with UV."""
    results = []
    for name, given in (
        ("icosphere", {"radius": 10.0, "edge": 0.05}),
        ("sheet", {"size": 20.0, "depth": 20.0, "edge": 0.05}),
    ):
        form = FORMS[name]
        body = Body.from_shape(name, form.build(complete(form.settings, given, "bench")))
        body.vertices.set_column("weight", np.full((body.vertices.count, 8), 0.125, np.float32))
        for column, width in (("rest", 3), ("relief/1", 3), ("hand", 1), ("guard", 1), (COAT, 1)):
            body.vertices.add_column(column, width)
        point = body.ray(np.array([0.1, 50.0, 0.1]), np.array([0.0, -1.0, 0.0]))
        assert point is not None
        body.grow_region(point.triangle, point.position, 0.5)
        each = body.nbytes / body.vertices.count
        results.append(
            {"form": name, "uv": body.corners.uv is not None, "bytes_per_vertex": round(each, 1), "limit": LIMIT}
        )
        say(f"memory of a {name}: {each:.0f} bytes a vertex (limit {LIMIT})")
    return results
