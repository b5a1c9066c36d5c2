"""What lies around a vertex, and how triangles face; for kernels."""

import math

from hulmo.core.kernel import part_of_kernels
from hulmo.core.mesh.one_ring import next_corner, previous_corner

BENT = 0.5
"""Cosine of how far a triangle may turn over when two vertices are joined."""


@part_of_kernels
def around_at(vertex, opposite, first, row, out):  # type: ignore[no-untyped-def]
    """Vertices at the triangles of one, itself first; how many. For kernels."""
    out[0] = row
    count = 1
    start = first[row]
    if start < 0:
        return count
    corner, way = start, 0
    while True:
        for step in range(2):
            other = vertex[next_corner(corner)] if step == 0 else vertex[previous_corner(corner)]
            known = False
            for i in range(count):
                known = known or out[i] == other
            if not known and count < out.size:
                out[count] = other
                count += 1
        if way == 0:
            across = opposite[next_corner(corner)]
            if across >= 0:
                corner = next_corner(across)
                if corner == start:
                    return count
                continue
            corner, way = start, 1
        across = opposite[previous_corner(corner)]
        if across < 0:
            return count
        corner = previous_corner(across)


@part_of_kernels
def fan_at(opposite, first, row, out):  # type: ignore[no-untyped-def]
    """Corners at a vertex; how many. For kernels."""
    start = first[row]
    if start < 0:
        return 0
    out[0] = start
    count, corner, way = 1, start, 0
    while True:
        if way == 0:
            across = opposite[next_corner(corner)]
            if across >= 0:
                corner = next_corner(across)
                if corner == start or count >= out.size:
                    return count
                out[count] = corner
                count += 1
                continue
            corner, way = start, 1
        across = opposite[previous_corner(corner)]
        if across < 0 or count >= out.size:
            return count
        corner = previous_corner(across)
        out[count] = corner
        count += 1


@part_of_kernels
def holds(rows, count, row):  # type: ignore[no-untyped-def]
    """Whether a row is among the first `count` of some. For kernels."""
    found = False
    for i in range(count):
        found = found or rows[i] == row
    return found


@part_of_kernels
def apart(position, a, b):  # type: ignore[no-untyped-def]
    """Distance of two vertices. For kernels."""
    x, y, z = position[a, 0] - position[b, 0], position[a, 1] - position[b, 1], position[a, 2] - position[b, 2]
    return math.sqrt(x * x + y * y + z * z)


@part_of_kernels
def smallest_angle(position, a, b, c):  # type: ignore[no-untyped-def]
    """Of a triangle, degrees: it lies across the shortest side. For kernels."""
    one, two, three = apart(position, a, b), apart(position, b, c), apart(position, c, a)
    low = min(one, two, three)
    high = max(one, two, three)
    middle = one + two + three - low - high
    if not low > 0:
        return 0.0
    cosine = (middle * middle + high * high - low * low) / (2 * middle * high)
    return math.degrees(math.acos(max(-1.0, min(1.0, cosine))))


@part_of_kernels
def facing(position, a, b, c):  # type: ignore[no-untyped-def]
    """Normal of a triangle, as long as twice its area. For kernels."""
    ux, uy, uz = position[b, 0] - position[a, 0], position[b, 1] - position[a, 1], position[b, 2] - position[a, 2]
    vx, vy, vz = position[c, 0] - position[a, 0], position[c, 1] - position[a, 1], position[c, 2] - position[a, 2]
    return uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx


@part_of_kernels
def faces_alike(a, b):  # type: ignore[no-untyped-def]
    """Whether two normals are turned from each other by less than `BENT` says. For kernels."""
    along = a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
    sizes = math.sqrt(a[0] ** 2 + a[1] ** 2 + a[2] ** 2) * math.sqrt(b[0] ** 2 + b[1] ** 2 + b[2] ** 2)
    return along > BENT * sizes
