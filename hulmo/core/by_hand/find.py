"""Ways to find what is to be chosen, each from the table of a body to a mask of its vertices, edges or faces."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand.choice import AHEAD, BEHIND, Mask, as_domain, both_sides, live
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import REGION
from hulmo.core.mesh.corners_among import any_of
from hulmo.core.mesh.edge_ends import edge_ends
from hulmo.core.mesh.sides import unit_normals
from hulmo.core.objects.line import CUT

Rows = NDArray[np.int32]


def grown(body: Body, mask: Mask, domain: str) -> Mask:
    """One ring more: all that touches what is chosen."""
    rows = as_domain(body, mask, domain, "vertex")
    triangles, there = body.corners.triangles, live(body.corners)
    touched = any_of(rows, triangles) & there
    if domain == "face":
        return np.asarray(touched)
    if domain == "edge":
        near = rows[triangles] & there[:, None]
        return both_sides(body.corners, (near[:, AHEAD] | near[:, BEHIND]) & there[:, None])
    out = rows.copy()
    out[triangles[touched].reshape(-1)] = True
    return out


def shrunk(body: Body, mask: Mask, domain: str) -> Mask:
    """One ring less: what is chosen with all that touches it."""
    return np.asarray(mask & ~grown(body, everything(body, domain) & ~mask, domain))


def everything(body: Body, domain: str) -> Mask:
    """All vertices, edges or faces."""
    if domain == "vertex":
        return np.asarray(body.corners.first_corner >= 0)
    there = live(body.corners)
    return there if domain == "face" else np.repeat(there[:, None], 3, axis=1)


def border(body: Body, domain: str) -> Mask:
    """What lies at a border."""
    edges = (body.corners.opposite.reshape(-1, 3) < 0) & live(body.corners)[:, None]
    if domain == "face":
        return np.asarray(edges.any(axis=1))
    return edges if domain == "edge" else as_domain(body, edges, "edge", "vertex")


def ring(body: Body, step: int) -> Mask:
    """(M,) the faces of the n-th ring in from a border, the first touching it with an edge or a corner."""
    rows = border(body, "vertex")
    triangles, there = body.corners.triangles, live(body.corners)
    before = np.zeros(body.corners.count, np.bool_)
    for _ in range(step):
        reached = any_of(rows, triangles) & there
        mine = reached & ~before
        before |= reached
        rows = np.zeros_like(rows)
        rows[triangles[mine].reshape(-1)] = True
    return np.asarray(mine)


def connected(body: Body, mask: Mask, domain: str) -> Mask:
    """All that hangs together with what is chosen."""
    from hulmo.core.topology.parts import part_of_triangles

    _, part = part_of_triangles(body.corners)
    there = np.flatnonzero(live(body.corners))
    rows = as_domain(body, mask, domain, "vertex")
    mine = np.isin(part, np.unique(part[any_of(rows, body.corners.triangles[there])]))
    faces = np.zeros(body.corners.count, np.bool_)
    faces[there[mine]] = True
    return as_domain(body, faces, "face", domain)


def by_angle(body: Body, way: NDArray[np.float64], angle: float) -> Mask:
    """(M,) faces whose normal is no more than some degrees off a (3,) direction."""
    normal = unit_normals(body.vertices["position"], body.corners.triangles)
    unit = way / np.linalg.norm(way)
    return np.asarray((normal @ unit >= np.cos(np.radians(angle)) - 1e-9) & live(body.corners))


def by_slope(body: Body, low: float, high: float) -> Mask:
    """(M,) faces between two slopes, degrees, by the body's own down."""
    position, triangles = body.vertices["position"], body.corners.triangles
    middle = position[triangles].mean(axis=1)
    normal = unit_normals(position, triangles).astype(np.float64)
    slope = body.down.slope(normal, middle, body.origin)
    return np.asarray((slope >= low) & (slope <= high) & live(body.corners))


def by_height(body: Body, low: float, high: float) -> Mask:
    """(N,) vertices between two heights, metres."""
    height = body.heights(body.vertices["position"])
    return np.asarray((height >= low) & (height <= high) & (body.corners.first_corner >= 0))


def by_size(body: Body, low: float, high: float) -> Mask:
    """(M, 3) edges between two lengths, metres."""
    position, triangles = body.vertices["position"], body.corners.triangles
    step = position[triangles[:, AHEAD]].astype(np.float64) - position[triangles[:, BEHIND]]
    size = np.linalg.norm(step, axis=2)
    return np.asarray((size >= low) & (size <= high) & live(body.corners)[:, None])


def sharp(body: Body, angle: float) -> Mask:
    """(M, 3) edges at which the surface bends by some degrees or more; borders too."""
    corners = body.corners
    normal = unit_normals(body.vertices["position"], corners.triangles)
    across = corners.opposite.reshape(-1, 3)
    bend = np.einsum("mi,mki->mk", normal, normal[np.maximum(across, 0) // 3])
    return np.asarray(((bend <= np.cos(np.radians(angle))) | (across < 0)) & live(corners)[:, None])


def rim(body: Body, faces: Mask) -> Mask:
    """(M, 3) edges around chosen faces."""
    across = body.corners.opposite.reshape(-1, 3)
    beyond = np.where(across >= 0, faces[np.maximum(across, 0) // 3], False)
    return both_sides(body.corners, faces[:, None] & ~beyond)


def random_share(mask: Mask, corners_opposite: Rows, domain: str, share: float, seed: int) -> Mask:
    """About a share of what is chosen, the same for the same seed."""
    lot = np.random.default_rng(seed).random(mask.size).reshape(mask.shape)
    if domain == "edge":  # one lot an edge
        across = corners_opposite.reshape(-1, 3)
        flat = lot.reshape(-1)
        lot = np.where((across >= 0) & (across < np.arange(mask.size).reshape(-1, 3)), flat[np.maximum(across, 0)], lot)
    return np.asarray(mask & (lot < share))


def loop(body: Body, corner: int) -> Mask:
    """(M, 3) the edges that go on straight from one edge, both ways: at each vertex the edge most nearly opposite, within
    45 degrees, until there is none or the loop closes."""
    corners, position = body.corners, body.vertices["position"].astype(np.float64)
    out = np.zeros((corners.count, 3), np.bool_)
    a, b = (int(rows[0]) for rows in edge_ends(corners, np.array([corner])))
    by_border = corners.is_border(a) and corners.is_border(b) and corners.opposite[corner] < 0
    out.reshape(-1)[corner] = True
    for start, end in ((a, b), (b, a)):
        last, here = start, end
        for _ in range(corners.count):
            onward = position[here] - position[last]
            onward /= max(float(np.linalg.norm(onward)), 1e-30)
            best, found, found_corner = np.cos(np.radians(45.0)), -1, -1
            for c in _edges_at(body, here):
                rows = edge_ends(corners, np.array([c]))
                other = int(rows[0][0]) if int(rows[1][0]) == here else int(rows[1][0])
                if other == last or (by_border and corners.opposite[c] >= 0):
                    continue
                way = position[other] - position[here]
                straight = float(way @ onward) / max(float(np.linalg.norm(way)), 1e-30)
                if straight > best or by_border:
                    best, found, found_corner = straight, other, c
            if found < 0 or out.reshape(-1)[found_corner]:
                break
            out.reshape(-1)[found_corner] = True
            if corners.opposite[found_corner] >= 0:
                out.reshape(-1)[corners.opposite[found_corner]] = True
            last, here = here, found
    return both_sides(corners, out)


def _edges_at(body: Body, row: int) -> list[int]:
    # corners that face the edges at a vertex
    out = []
    for corner in body.corners.ring(row).tolist():
        base = corner - corner % 3
        out += [base + (corner + 1) % 3, base + (corner + 2) % 3]
    return out


def inside_of(body: Body, column: str) -> tuple[str, Mask]:
    """Faces of which at least half lies inside a line."""
    if column not in body.vertices:
        return "face", np.zeros(body.corners.count, np.bool_)
    inward = body.vertices[column][:, 0][body.corners.triangles]
    return "face", np.asarray((inward.mean(axis=1) > 0) & live(body.corners))


def cut_of(body: Body, number: int) -> tuple[str, Mask]:
    """Edges that were cut along a line."""
    marked = body.corners.slots.get(CUT)
    if marked is None:
        return "edge", np.zeros((body.corners.count, 3), np.bool_)
    return "edge", np.asarray((marked[:, :, 0] == number) & live(body.corners)[:, None])


def by_face(body: Body, column: str, value: float) -> Mask:
    """(M,) faces at which a column has a value; where there is no such column, it is 0 everywhere."""
    known = body.corners.slots.get(column)
    values = np.zeros(body.corners.count) if known is None else known[:, 0, 0]
    return np.asarray((values == value) & live(body.corners))


def region_rim(body: Body) -> Mask:
    """(M, 3) edges between faces of two regions."""
    known = body.corners.slots.get(REGION)
    if known is None:
        return np.zeros((body.corners.count, 3), np.bool_)
    across = body.corners.opposite.reshape(-1, 3)
    value = known[:, 0, 0]
    return np.asarray((across >= 0) & (value[np.maximum(across, 0) // 3] != value[:, None]))
