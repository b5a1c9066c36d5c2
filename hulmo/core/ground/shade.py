"""The blend formula at many places of a surface, on all cores: what `blend.glsl` and `ground.frag` draw, before light.

It needs no graphics card, and gives the same bytes on every machine.
"""

import math
from typing import Protocol

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem
from hulmo.core.ground.blend import AXIS_SHIFT
from hulmo.core.ground.four_texels import CHANNELS, add_four_texels
from hulmo.core.ground.ground import LEAST_DEPTH, MOST_GROUNDS, Blend, Ground
from hulmo.core.ground.layers import GroundLayers
from hulmo.core.ground.textures import StoredTextures
from hulmo.core.kernel import kernel, part_of_kernels
from hulmo.core.workers import by_pieces

Places = NDArray[np.float32]
Texels = NDArray[np.uint16]
Numbers = NDArray[np.int64]

PIECE = 1 << 14
"""Places that one thread does at a time."""

LEVELS = 15
"""Levels of detail at the most: images have sides of 8192 texels at the most."""

NO_PLACES = np.empty((0, 6), np.float32)


class Shaded(Protocol):
    """What has to be known of K places; see `hulmo.core.bake.surface.Surface`."""

    @property
    def position(self) -> Places:
        """(K, 3) metres."""

    @property
    def normal(self) -> Places:
        """(K, 3) of length 1."""

    @property
    def dx(self) -> Places:
        """(K, 3) metres to the next texel or pixel to the right."""

    @property
    def dy(self) -> Places:
        """(K, 3) metres to the next one below."""

    @property
    def weight(self) -> Places:
        """(K, G) weights of the grounds."""

    @property
    def tint(self) -> Places | None:
        """(K, 4) tint, if any."""

    @property
    def along(self) -> Places | None:
        """(K, 6) metres along texture coordinates, and what the two steps are there, if any ground lies along them."""


class GroundShade:
    """Answers what a palette looks like at places; its images are read once, and kept with their levels of detail.

    Parameters
    ----------
    grounds : tuple of Ground
    stored : dict
        Texture sets that the project keeps.
    blend : Blend

    Raises
    ------
    FileProblem
        A texture of the palette cannot be read.
    """

    def __init__(self, grounds: tuple[Ground, ...], stored: StoredTextures, blend: Blend) -> None:
        self._depth = max(blend.depth, LEAST_DEPTH) if blend.mode == "height" else 0.0
        layers = GroundLayers(grounds, stored)
        self._offset = np.zeros((MOST_GROUNDS, LEVELS), np.int64)
        self._size = np.ones((MOST_GROUNDS, LEVELS, 2), np.int64)
        self._last = np.zeros(MOST_GROUNDS, np.int64)
        parts: list[Texels] = []
        known: dict[tuple[int, int], int] = {}
        begin = 0
        for number, layer, colour, detail in layers.read():
            mine = known[number, layer] = len(known)
            for level, part in enumerate(_with_levels(np.concatenate((colour, detail), axis=2))):
                self._offset[mine, level], self._size[mine, level], self._last[mine] = begin, part.shape[1::-1], level
                parts.append(part.reshape(-1, CHANNELS))
                begin += parts[-1].shape[0]
        if layers.problems:
            raise FileProblem("; ".join(layers.problems))
        self._texels = np.concatenate(parts)
        self._values = values = layers.values
        self._layer = np.array([known.get((int(a), int(b)), 0) for a, b in values["image"][:, :2]], np.int64)

    def shade(self, surface: Shaded) -> tuple[Places, Places, Places]:
        """(K, 3) base colour in linear light, (K,) roughness, and (K, 3) normals with the normal maps of the grounds."""
        count, values = surface.position.shape[0], self._values
        colour, rough, bent = (
            np.empty((count, 3), np.float32),
            np.empty(count, np.float32),
            np.empty((count, 3), np.float32),
        )
        given = [
            NO_PLACES if part is None else np.ascontiguousarray(part, np.float32)
            for part in (
                surface.position, surface.normal, surface.dx, surface.dy, surface.weight, surface.tint, surface.along
            )
        ]  # fmt: skip
        names = "factor", "tile", "tint", "adjust", "manner", "spread", "mean_colour", "mean_detail"
        told = [values[name] for name in names]

        def some(part: slice) -> None:
            places = [one[part] if one.size else one for one in given]
            images = [self._texels, self._offset, self._size, self._last, self._layer, AXIS_SHIFT]
            out = [colour[part], rough[part], bent[part]]
            _shade(*[*places, *images, *told, self._depth, *out])

        by_pieces(some, count, PIECE)
        return colour, rough, bent


def _with_levels(image: Texels) -> list[Texels]:
    # an image, and each level the mean of two by two texels of the one before; where a side is odd, of the two about the
    # middle of each new one, so that nothing moves (as OpenGL does)
    out = [image]
    while max(out[-1].shape[:2]) > 1 and len(out) < LEVELS:
        height, width = (max(1, side // 2) for side in out[-1].shape[:2])
        half = np.empty((height, width, image.shape[2]), np.uint16)
        _halve(out[-1], half)
        out.append(half)
    return out


@part_of_kernels
def _between(i, count, whole):  # type: ignore[no-untyped-def]
    # the two texels that lie about the middle of a larger one, and the share of the second
    at = (i + 0.5) * whole / count - 0.5
    low = np.int64(at)
    return low, min(low + 1, whole - 1), at - low


@kernel("void(uint16[:,:,::1], uint16[:,:,::1])")
def _halve(image: Texels, half: Texels) -> None:
    for y in range(half.shape[0]):
        top, below, t = _between(y, half.shape[0], image.shape[0])
        for x in range(half.shape[1]):
            left, right, s = _between(x, half.shape[1], image.shape[1])
            for k in range(image.shape[2]):
                upper = image[top, left, k] * (1.0 - s) + image[top, right, k] * s
                lower = image[below, left, k] * (1.0 - s) + image[below, right, k] * s
                half[y, x, k] = np.uint16(upper * (1.0 - t) + lower * t + 0.5)


@part_of_kernels
def _floor(x):  # type: ignore[no-untyped-def]
    whole = np.int64(x)
    return whole - 1 if x < whole else whole


@part_of_kernels
def _hashed(x, y, z):  # type: ignore[no-untyped-def]
    # pcg3d, as `blend.hashed`
    full = np.uint64(0xFFFFFFFF)
    a = (np.uint64(np.uint32(x)) * np.uint64(1664525) + np.uint64(1013904223)) & full
    b = (np.uint64(np.uint32(y)) * np.uint64(1664525) + np.uint64(1013904223)) & full
    c = (np.uint64(np.uint32(z)) * np.uint64(1664525) + np.uint64(1013904223)) & full
    a = (a + b * c) & full
    b = (b + c * a) & full
    c = (c + a * b) & full
    a ^= a >> np.uint64(16)
    b ^= b >> np.uint64(16)
    c ^= c >> np.uint64(16)
    a = (a + b * c) & full
    b = (b + c * a) & full
    return np.float64(a), np.float64(b)


@part_of_kernels
def _varied(x, y, z, size, strength):  # type: ignore[no-untyped-def]
    # as `blend.varied`
    x, y, z = x / size, y / size, z / size
    i, j, k = _floor(x), _floor(y), _floor(z)
    u, v, w = x - i, y - j, z - k
    u, v, w = u * u * (3.0 - 2.0 * u), v * v * (3.0 - 2.0 * v), w * w * (3.0 - 2.0 * w)
    total = 0.0
    for corner in range(8):
        a, b, c = corner & 1, (corner >> 1) & 1, (corner >> 2) & 1
        value, _ = _hashed(i + a, j + b, k + c)
        total += value / 4294967295.0 * (u if a else 1.0 - u) * (v if b else 1.0 - v) * (w if c else 1.0 - w)
    return 1.0 + strength * (2.0 * total - 1.0)


@part_of_kernels
def _pieces(u, v):  # type: ignore[no-untyped-def]
    # as `blend.pieces`: weights of three pieces, and their cells
    p, q = 2.0 * (u - 0.57735027 * v), 2.0 * 1.15470054 * v
    i, j = _floor(p), _floor(q)
    s, t = p - i, q - j
    third = 1.0 - s - t
    if third > 0.0:
        one, two, three = third, t, s
        x0, y0, x1, y1, x2, y2 = i, j, i, j + 1, i + 1, j
    else:
        one, two, three = -third, 1.0 - t, 1.0 - s
        x0, y0, x1, y1, x2, y2 = i + 1, j + 1, i + 1, j, i, j + 1
    one, two, three = max(one - 0.02, 0.0), max(two - 0.02, 0.0), max(three - 0.02, 0.0)
    total = 1.0 / (one + two + three)
    return one * total, two * total, three * total, x0, y0, x1, y1, x2, y2


@part_of_kernels
def _about(value, mean, root):  # type: ignore[no-untyped-def]
    return min(max(mean + (value - mean) * root, np.float32(0.0)), np.float32(1.0))


@part_of_kernels
def _level(ax, ay, bx, by):  # type: ignore[no-untyped-def]
    level = 0.5 * math.log2(max(max(ax * ax + ay * ay, bx * bx + by * by), 1e-12))
    return min(level, 64.0) if level > 0.0 else 0.0  # of steps that are no numbers as well


@part_of_kernels
def _adjusted(red, green, blue, brightness, contrast, gamma, saturation):  # type: ignore[no-untyped-def]
    # as `blend.adjusted`
    red = max((red * brightness - 0.18) * contrast + 0.18, 0.0)
    green = max((green * brightness - 0.18) * contrast + 0.18, 0.0)
    blue = max((blue * brightness - 0.18) * contrast + 0.18, 0.0)
    if gamma != 1.0:
        red, green, blue = red ** (1.0 / gamma), green ** (1.0 / gamma), blue ** (1.0 / gamma)
    grey = 0.2126 * red + 0.7152 * green + 0.0722 * blue
    return (
        max(grey + (red - grey) * saturation, 0.0), max(grey + (green - grey) * saturation, 0.0),
        max(grey + (blue - grey) * saturation, 0.0),
    )  # fmt: skip


@part_of_kernels
def _face(ax, ay, az, bx, by, bz):  # type: ignore[no-untyped-def]
    return ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx


@kernel(
    "void(float32[:,::1], float32[:,::1], float32[:,::1], float32[:,::1], float32[:,::1], float32[:,::1], "
    "float32[:,::1], uint16[:,::1], int64[:,::1], int64[:,:,::1], int64[::1], int64[::1], float64[:,::1], "
    "float32[:,::1], float32[:,::1], float32[:,::1], float32[:,::1], float32[:,::1], float32[:,::1], float32[:,::1], "
    "float32[:,::1], float64, float32[:,::1], float32[::1], float32[:,::1])"
)
def _shade(  # type: ignore[no-untyped-def]
    position, normal, dx, dy, weights, tints, along, texels, offset, size, last, layer, shift, factor, tile, tint, adjust,
    manner, spread, mean_colour, mean_detail, depth, out, rough, bent,
):  # fmt: skip
    # No function here but that in instructions takes an array: each call would count references, from all threads on the
    # same counters.
    grounds = weights.shape[1]
    axis_share = np.empty(3)
    which = np.empty(grounds, np.int64)
    weight, share = np.empty(grounds), np.empty(grounds)
    albedo = np.empty((grounds, 3))
    detail = np.empty((3 * grounds, 3))  # of each ground along each axis: two of the normal, and roughness
    seen = np.empty(CHANNELS, np.float32)  # of what is looked up: colour and height, normal and roughness
    pieces = np.empty((3, 3))  # weight and place of each piece that is looked up
    for i in range(position.shape[0]):
        nx, ny, nz = np.float64(normal[i, 0]), np.float64(normal[i, 1]), np.float64(normal[i, 2])
        length = math.sqrt(nx * nx + ny * ny + nz * nz)
        if not 1e-15 < length < np.inf:  # where a fold turns back on itself, what is mixed of its two sides has no way
            nx, ny, nz, length = 0.0, 1.0, 0.0, 1.0
        nx, ny, nz = nx / length, ny / length, nz / length
        a, b, c = nx * nx * nx * nx, ny * ny * ny * ny, nz * nz * nz * nz
        total = a + b + c
        a, b, c = max(a / total - 0.02, 0.0), max(b / total - 0.02, 0.0), max(c / total - 0.02, 0.0)
        total = a + b + c
        axis_share[0], axis_share[1], axis_share[2] = a / total, b / total, c / total
        px, py, pz = np.float64(position[i, 0]), np.float64(position[i, 1]), np.float64(position[i, 2])
        dxx, dxy, dxz = np.float64(dx[i, 0]), np.float64(dx[i, 1]), np.float64(dx[i, 2])
        dyx, dyy, dyz = np.float64(dy[i, 0]), np.float64(dy[i, 1]), np.float64(dy[i, 2])
        # in a height blend, a ground that even its highest height would leave too far behind has no share
        least = 0.0
        for g in range(grounds):
            least = max(least, weights[i, g] * factor[g, 0])
        least = least * (1.0 - depth) if depth > 0.0 else 0.0
        count = 0
        for g in range(grounds):
            if weights[i, g] * factor[g, 1] > least:
                which[count], weight[count] = g, weights[i, g]
                count += 1
        best = 0.0
        for j in range(count):
            g = which[j]
            at, s = layer[g], 1.0 / tile[g, 0]
            cosine, sine, broken = np.float64(manner[g, 0]), np.float64(manner[g, 1]), spread[g, 0] > 0.5
            by_uv = spread[g, 3] > 0.5 and along.shape[0] > 0
            end, red, green, blue, more = last[at], 0.0, 0.0, 0.0, 0.0
            for axis in range(1 if by_uv else 3):
                part = 1.0 if by_uv else axis_share[axis]
                if part <= 0.0:
                    continue
                to_u, to_v = shift[axis, 0], shift[axis, 1]
                if by_uv:
                    u, v, to_u, to_v = np.float64(along[i, 0]), np.float64(along[i, 1]), 0.0, 0.0
                    ax, ay = np.float64(along[i, 2]), np.float64(along[i, 3])
                    bx, by = np.float64(along[i, 4]), np.float64(along[i, 5])
                elif axis == 0:
                    u, v, ax, ay, bx, by = pz, -py, dxz, -dxy, dyz, -dyy
                elif axis == 1:
                    u, v, ax, ay, bx, by = px, pz, dxx, dxz, dyx, dyz
                else:
                    u, v, ax, ay, bx, by = px, -py, dxx, -dxy, dyx, -dyy
                u, v = (cosine * u - sine * v) * s + to_u, (sine * u + cosine * v) * s + to_v
                wide, high = size[at, 0, 0] * s, size[at, 0, 1] * s
                level = _level(
                    (cosine * ax - sine * ay) * wide, (sine * ax + cosine * ay) * high,
                    (cosine * bx - sine * by) * wide, (sine * bx + cosine * by) * high,
                )  # fmt: skip
                pieces[0, 0], pieces[0, 1], pieces[0, 2] = 1.0, u, v
                if broken:
                    one, two, three, x0, y0, x1, y1, x2, y2 = _pieces(u, v)
                    pieces[0, 0], pieces[1, 0], pieces[2, 0] = one, two, three
                    a, b = _hashed(x0, y0, 0)
                    pieces[0, 1], pieces[0, 2] = u + a / 4294967296.0, v + b / 4294967296.0
                    a, b = _hashed(x1, y1, 0)
                    pieces[1, 1], pieces[1, 2] = u + a / 4294967296.0, v + b / 4294967296.0
                    a, b = _hashed(x2, y2, 0)
                    pieces[2, 1], pieces[2, 2] = u + a / 4294967296.0, v + b / 4294967296.0
                low = min(np.int64(level), end)
                beyond = np.float32(level - low) if low < end else np.float32(0.0)
                square = np.float32(0.0)
                for channel in range(CHANNELS):
                    seen[channel] = np.float32(0.0)
                for piece in range(3 if broken else 1):
                    w = np.float32(pieces[piece, 0])
                    if w <= 0.0:
                        continue
                    square += w * w
                    u, v = pieces[piece, 1], pieces[piece, 2]
                    u, v = u - np.floor(u), v - np.floor(v)
                    u, v = u if 0.0 <= u <= 1.0 else 0.0, v if 0.0 <= v <= 1.0 else 0.0  # whatever the place is
                    for step in range(2 if beyond > 0.0 else 1):  # the two nearest levels of detail
                        width, height, first = size[at, low + step, 0], size[at, low + step, 1], offset[at, low + step]
                        held = w * (beyond if step else np.float32(1.0) - beyond)
                        x, y = u * width - 0.5, v * height - 0.5
                        left, top = np.int64(x + 1.0) - 1, np.int64(y + 1.0) - 1  # neither lies below -0.5
                        p, q = np.float32(x - left), np.float32(y - top)
                        right, below = left + 1, top + 1
                        left = left if left >= 0 else width - 1
                        right = right if right < width else 0
                        top = top if top >= 0 else height - 1
                        below = below if below < height else 0
                        d = q * p * held
                        c, b = q * held - d, p * held - d
                        a = held - q * held - b
                        k, m = first + top * width, first + below * width
                        k, m, n, o = k + left, k + right, m + left, m + right
                        add_four_texels(texels, k, m, n, o, a, b, c, d, seen)
                full = np.float32(1.0 / 65535.0)
                tr, tg, tb, ta = seen[0] * full, seen[1] * full, seen[2] * full, seen[3] * full
                tu, tv, to = seen[4] * full, seen[5] * full, seen[6] * full
                if broken:  # about the mean, so that contrast is kept
                    root = np.float32(1.0 / math.sqrt(square))
                    tr, tg = _about(tr, mean_colour[g, 0], root), _about(tg, mean_colour[g, 1], root)
                    tb, ta = _about(tb, mean_colour[g, 2], root), _about(ta, mean_colour[g, 3], root)
                    tu, tv = _about(tu, mean_detail[g, 0], root), _about(tv, mean_detail[g, 1], root)
                    to = _about(to, mean_detail[g, 2], root)
                red, green, blue, more = red + tr * part, green + tg * part, blue + tb * part, more + ta * part
                detail[3 * j + axis, 0], detail[3 * j + axis, 1], detail[3 * j + axis, 2] = tu, tv, to
            red, green, blue = _adjusted(
                red * tint[g, 0], green * tint[g, 1], blue * tint[g, 2], np.float64(adjust[g, 0]),
                np.float64(adjust[g, 1]), np.float64(adjust[g, 2]), np.float64(adjust[g, 3]),
            )  # fmt: skip
            if spread[g, 1] > 0.0:
                a = _varied(px, py, pz, np.float64(spread[g, 2]), np.float64(spread[g, 1]))
                red, green, blue = red * a, green * a, blue * a
            albedo[j, 0], albedo[j, 1], albedo[j, 2] = red, green, blue
            share[j] = weight[j] * (0.1 + 0.9 * more) if depth > 0.0 else weight[j]
            best = max(best, share[j])
        total, flat, red, green, blue = 0.0, 0.0, 0.0, 0.0, 0.0
        if depth > 0.0:
            for j in range(count):
                share[j] = max(share[j] - best * (1.0 - depth), 0.0)
                total += share[j]
            for j in range(count):
                share[j] /= max(total, 1e-6)
        for j in range(count):
            red, green, blue = (
                red + albedo[j, 0] * share[j],
                green + albedo[j, 1] * share[j],
                blue + albedo[j, 2] * share[j],
            )
            flat += share[j] * manner[which[j], 3]
        if tints.shape[0] > 0:
            rest = 1.0 - tints[i, 3]
            red, green, blue = red * (rest + tints[i, 0]), green * (rest + tints[i, 1]), blue * (rest + tints[i, 2])
        out[i, 0], out[i, 1], out[i, 2] = red, green, blue
        sx, sy, sz = nx, ny, nz
        if flat > 0.0:  # toward the normal of the face
            fx, fy, fz = _face(dxx, dxy, dxz, dyx, dyy, dyz)
            length = math.sqrt(fx * fx + fy * fy + fz * fz)
            if length > 0.0:
                turn = flat / (-length if fx * nx + fy * ny + fz * nz < 0.0 else length)
                rest = 1.0 - flat
                sx, sy, sz = nx * rest + fx * turn, ny * rest + fy * turn, nz * rest + fz * turn
                length = 1.0 / math.sqrt(max(sx * sx + sy * sy + sz * sz, 1e-30))
                sx, sy, sz = sx * length, sy * length, sz * length
        roughness = 0.0
        for j in range(count):
            g = which[j]
            cosine, sine = np.float64(manner[g, 0]), np.float64(manner[g, 1])
            by_uv = spread[g, 3] > 0.5 and along.shape[0] > 0
            for axis in range(1 if by_uv else 3):
                part = (1.0 if by_uv else axis_share[axis]) * share[j]
                if part <= 0.0:
                    continue
                u, v = detail[3 * j + axis, 0] * 2.0 - 1.0, detail[3 * j + axis, 1] * 2.0 - 1.0
                roughness += detail[3 * j + axis, 2] * part
                part *= manner[g, 2]
                u, v = (cosine * u - sine * v) * part, (sine * u + cosine * v) * part
                if by_uv:
                    # across the normal and each step (Schueler, "Normal mapping without precomputed tangents", 2013)
                    cx, cy, cz = _face(dyx, dyy, dyz, nx, ny, nz)
                    ex, ey, ez = _face(nx, ny, nz, dxx, dxy, dxz)
                    ax, ay = np.float64(along[i, 2]), np.float64(along[i, 3])
                    bx, by = np.float64(along[i, 4]), np.float64(along[i, 5])
                    ux, uy, uz = cx * ax + ex * bx, cy * ax + ey * bx, cz * ax + ez * bx
                    vx, vy, vz = cx * ay + ex * by, cy * ay + ey * by, cz * ay + ez * by
                    fx, fy, fz = _face(dxx, dxy, dxz, dyx, dyy, dyz)
                    long = max(max(ux * ux + uy * uy + uz * uz, vx * vx + vy * vy + vz * vz), 1e-20)
                    turn = (-1.0 if fx * nx + fy * ny + fz * nz < 0.0 else 1.0) / math.sqrt(long)
                    sx, sy, sz = (
                        sx + (ux * u - vx * v) * turn,
                        sy + (uy * u - vy * v) * turn,
                        sz + (uz * u - vz * v) * turn,
                    )
                elif axis == 0:
                    sy, sz = sy + v, sz + u
                elif axis == 1:
                    sx, sz = sx + u, sz - v
                else:
                    sx, sy = sx + u, sy + v
        length = 1.0 / math.sqrt(max(sx * sx + sy * sy + sz * sz, 1e-30))
        bent[i, 0], bent[i, 1], bent[i, 2] = sx * length, sy * length, sz * length
        rough[i] = min(max(roughness, 0.05), 1.0)
