"""The weight column: how much of each ground lies at a vertex. The weights of one vertex sum to 1."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.vertex_table import VertexTable

WEIGHT = "weight"

Weights = NDArray[np.float32]


def weights_of(body: Body, grounds: int) -> Weights:
    """(N, grounds) view of a body's weights; a body without any starts as all of the first ground."""
    if WEIGHT not in body.vertices:
        body.vertices.set_column(WEIGHT, filled(body.vertices.count, grounds, 0))
    return body.vertices[WEIGHT]


def filled(count: int, grounds: int, ground: int) -> Weights:
    """(count, grounds) weights that are all one ground."""
    weights = np.zeros((count, grounds), np.float32)
    weights[:, ground] = 1.0
    return weights


def tidied(table: VertexTable) -> VertexTable:
    """The same table; interpolation's rounding is taken off its weights, so that none is negative and rows sum to 1."""
    if WEIGHT in table:
        weight = np.maximum(table[WEIGHT], 0.0)
        total = weight.sum(axis=1, dtype=np.float64)
        weight[total <= 0, 0] = 1.0
        table[WEIGHT][:] = weight / np.where(total > 0, total, 1.0)[:, None]
    return table


def with_ground_added(weights: Weights) -> Weights:
    """(N, G + 1) weights with an empty column for a new last ground."""
    return np.concatenate((weights, np.zeros((weights.shape[0], 1), np.float32)), axis=1)


def with_ground_removed(weights: Weights, ground: int) -> Weights:
    """(N, G - 1) weights without a ground; its share goes to what else lies there, or to the first ground left."""
    rest = np.delete(weights, ground, axis=1).astype(np.float64)
    total = rest.sum(axis=1)
    bare = total <= 1e-6
    rest[bare] = 0.0
    rest[bare, 0] = 1.0
    total[bare] = 1.0
    return np.asarray(rest / total[:, None], np.float32)
