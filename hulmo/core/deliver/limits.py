"""Shares of grounds brought within what a target can take, with as little seen of it as can be."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.areas import triangle_areas
from hulmo.core.mesh.body import Body

Values = NDArray[np.float32]


def at_vertex(weight: Values, most: int) -> Values:
    """(N, G) shares of which no row has more than so many: the smallest go, and the others grow in proportion."""
    if not 0 < most < weight.shape[1]:
        return weight
    order = np.argsort(-weight, axis=1, kind="stable")
    out = weight.copy()
    np.put_along_axis(out, order[:, most:], 0.0, axis=1)
    return np.asarray(out / np.maximum(out.sum(axis=1, keepdims=True), 1e-12), np.float32)


def on_body(body: Body, weight: Values, most: int) -> Values:
    """(N, G) shares of so many grounds: those that cover most of the area; elsewhere what is left grows, and where nothing
    is left the ground that covers most lies."""
    if not 0 < most < weight.shape[1]:
        return weight
    triangles = body.corners.live_triangles()
    area = triangle_areas(body.vertices["position"][triangles])
    cover = (weight[triangles].sum(axis=1) * area[:, None]).sum(axis=0)
    kept = np.argsort(-cover, kind="stable")[:most]
    out = np.zeros_like(weight)
    out[:, kept] = weight[:, kept]
    total = out.sum(axis=1, keepdims=True)
    bare = total[:, 0] < 1e-6
    out = out / np.maximum(total, 1e-12)
    out[bare] = 0.0
    out[bare, kept[0]] = 1.0
    return np.asarray(out, np.float32)


def limited(body: Body, most_at_vertex: int, most_grounds: int) -> float:
    """Bring the shares of a body within both limits; the share of its vertices that changed."""
    before = body.vertices[WEIGHT]
    after = at_vertex(on_body(body, before, most_grounds), most_at_vertex)
    changed = np.abs(after - before).max(axis=1) > 1e-6
    body.vertices[WEIGHT][:] = after
    return float(changed.mean()) if changed.size else 0.0
