"""What a body measures: area, volume, edge lengths, border loops, genus, thin triangles."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.graph import hanging_together
from hulmo.core.mesh.thin import THIN, smallest_angles
from hulmo.core.mesh.used_rows import used_rows


@dataclass(frozen=True)
class Measures:
    """Figures of one body; lengths in metres.

    Attributes
    ----------
    vertices, edges, triangles, parts, border_loops : int
    genus : int
        Number of handles over all parts.
    area : float
        Square metres.
    volume : float or None
        Cubic metres; None for an open body.
    edge_shortest, edge_mean, edge_longest : float
    thin_share : float
        Share (0 to 1) of triangles whose smallest angle is under 10 degrees.
    low, high : tuple of float
        Corners of the extent.
    """

    vertices: int
    edges: int
    triangles: int
    parts: int
    border_loops: int
    genus: int
    area: float
    volume: float | None
    edge_shortest: float
    edge_mean: float
    edge_longest: float
    thin_share: float
    low: tuple[float, float, float]
    high: tuple[float, float, float]

    @property
    def closed(self) -> bool:
        """Whether there is no border."""
        return self.border_loops == 0


def measure(body: Body) -> Measures:
    """Measure a whole body.

    Notes
    -----
    Volume is the sum of signed tetrahedra against the body's origin; genus follows from the Euler characteristic,
    V - E + F = 2 parts - 2 genus - border loops.
    """
    triangles = body.corners.live_triangles()
    position = body.vertices["position"].astype(np.float64)
    a, b, c = (position[triangles[:, i]] for i in range(3))
    sides = np.stack((np.linalg.norm(c - b, axis=1), np.linalg.norm(a - c, axis=1), np.linalg.norm(b - a, axis=1)), 1)
    double_area = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    border = body.corners.border_corners()
    edges = (3 * triangles.shape[0] + border.size) // 2
    # every inner edge is seen from two sides, every border edge from one
    seen = np.full(sides.shape, 0.5)
    inner = body.corners.opposite.reshape(-1, 3)[body.corners.triangles[:, 0] >= 0] >= 0
    seen[~inner] = 1.0
    loops = _border_loops(body, border)
    used = used_rows(triangles, body.vertices.count)
    parts = _parts(triangles, body.vertices.count, used)
    euler = used.size - edges + triangles.shape[0]
    volume = float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6) if loops == 0 else None
    used_position = position[used]
    low, high = (edge + body.origin for edge in low_high(used_position))
    return Measures(
        vertices=int(used.size),
        edges=int(edges),
        triangles=int(triangles.shape[0]),
        parts=parts,
        border_loops=loops,
        genus=(2 * parts - loops - int(euler)) // 2,
        area=float(double_area.sum() / 2),
        volume=volume,
        edge_shortest=float(sides.min()),
        edge_mean=float((sides * seen).sum() / seen.sum()),
        edge_longest=float(sides.max()),
        thin_share=float(np.mean(smallest_angles(sides, double_area) < THIN)),
        low=(float(low[0]), float(low[1]), float(low[2])),
        high=(float(high[0]), float(high[1]), float(high[2])),
    )


def _parts(triangles: NDArray[np.int32], vertices: int, used: NDArray[np.int32]) -> int:
    # two sides of a triangle join its three vertices
    _, label = hanging_together(np.repeat(triangles[:, 0], 2), triangles[:, 1:].reshape(-1), vertices)
    return int(np.unique(label[used]).size)


def _border_loops(body: Body, border: NDArray[np.int32]) -> int:
    if border.size == 0:
        return 0
    vertex = body.corners.vertex
    base = border - border % 3
    start, end = vertex[base + (border + 1) % 3], vertex[base + (border + 2) % 3]
    names, local = np.unique(np.concatenate((start, end)), return_inverse=True)
    half = start.size
    return hanging_together(local[:half], local[half:], names.size)[0]
