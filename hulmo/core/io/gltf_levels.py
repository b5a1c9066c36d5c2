"""Coarser levels of bodies in one glTF file: nodes beside the scene that stand in for those in it (MSFT_lod)."""

import math

import numpy as np
import pygltflib as gltf

from hulmo.core.low_high import low_high
from hulmo.core.project import Project

LEVELS = "MSFT_lod"
"""Extension of a node that names its coarser levels; who does not know it shows the finest."""

COVERAGE, FROM = "MSFT_screencoverage", "hulmo_from"
"""Keys in the extras of such a node: share of the picture's height down to which each level does, the finest first; and
metres from which on each coarser one does."""

FIELD = 50.0
"""Degrees of the lens that shares of the picture are told for."""


def with_levels(project: Project, nodes: list[gltf.Node]) -> set[int]:
    """Tell nodes, which are those of the bodies that are shown, of their coarser levels; which nodes those are."""
    bodies = [body for body in project.bodies if body.shown]
    number = {body.ident: i for i, body in enumerate(bodies)}
    below: dict[int, list[tuple[int, float]]] = {}
    for ident, (finest, away) in project.coarser.items():
        below.setdefault(number[finest], []).append((number[ident], away))
    for at, levels in below.items():
        position = bodies[at].vertices["position"][np.unique(bodies[at].corners.live_triangles())].astype(np.float64)
        low, high = low_high(position)
        radius = float(np.linalg.norm(high - low)) / 2
        shares = [min(radius / (max(away, 1e-6) * math.tan(math.radians(FIELD) / 2)), 1.0) for _, away in levels]
        nodes[at].extensions = {LEVELS: {"ids": [level for level, _ in levels]}}
        nodes[at].extras = {COVERAGE: [*(round(share, 6) for share in shares), 0.0], FROM: [away for _, away in levels]}
    return {level for levels in below.values() for level, _ in levels}
