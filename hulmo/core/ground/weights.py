"""The weight column: how much of each ground lies at a vertex. The weights of one vertex sum to 1."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.traces import TRACES
from hulmo.core.mesh.vertex_table import VertexTable

WEIGHT = "weight"

HAND = "hand"
"""Vertex column, as wide as the palette: hand paint. There wherever weights are; untouched zeros take no memory."""

RULED = "ruled"
"""Vertex column, as wide as the palette: what the ground rules say. There only while a body has rules."""

Weights = NDArray[np.float32]


def weights_of(body: Body, grounds: int) -> Weights:
    """(N, grounds) view of a body's weights; a body without any starts as all of its base ground."""
    if WEIGHT not in body.vertices:
        body.vertices.set_column(WEIGHT, filled(body.vertices.count, grounds, body.base))
    if HAND not in body.vertices:
        body.vertices.add_column(HAND, grounds)
    return body.vertices[WEIGHT]


def filled(count: int, grounds: int, ground: int) -> Weights:
    """(count, grounds) weights that are all one ground."""
    weights = np.zeros((count, grounds), np.float32)
    weights[:, ground] = 1.0
    return weights


def tidied(table: VertexTable) -> VertexTable:
    """The same table; interpolation's rounding is taken off its weights, so that none is negative and rows sum to 1, and off
    what weather left.

    Hand paint sums to 1 at the most.
    """
    for trace in TRACES:
        if trace.name in table:
            np.clip(table[trace.name], trace.low, trace.high, out=table[trace.name])
    for name in (WEIGHT, RULED, HAND):
        if name not in table:
            continue
        weight = np.maximum(table[name], 0.0)
        total = weight.sum(axis=1, dtype=np.float64)
        if name == HAND:
            total = np.maximum(total, 1.0)
        else:
            weight[total <= 0, 0] = 1.0
        table[name][:] = weight / np.where(total > 0, total, 1.0)[:, None]
    return table
