"""Makes the meshes of props that come with the program, hulmo/assets/props/*.npz, from noise and a few numbers."""

import math
import pathlib

import fast_simplification
import numpy as np
from pyfastnoiselite.pyfastnoiselite import FastNoiseLite, FractalType, NoiseType

from hulmo.core.colour import hex_to_linear
from hulmo.core.mesh.forms import FORMS
from hulmo.core.props.prop import FOLDER, SHIPPED, coloured_mesh

Mesh = tuple[np.ndarray, np.ndarray, np.ndarray]


def noise(points: np.ndarray, scale: float, seed: int, octaves: int = 3) -> np.ndarray:
    made = FastNoiseLite(seed)
    made.noise_type = NoiseType.NoiseType_OpenSimplex2
    made.fractal_type = FractalType.FractalType_FBm
    made.fractal_octaves = octaves
    made.frequency = 1.0 / scale
    return np.array([made.get_noise(*map(float, point)) for point in points])


def ball(edge: float = 0.13) -> tuple[np.ndarray, np.ndarray]:
    shape = FORMS["icosphere"].build({"radius": 1.0, "edge": edge})
    return shape.position.astype(np.float64), shape.triangles


def fewer(position: np.ndarray, triangles: np.ndarray, wanted: int) -> tuple[np.ndarray, np.ndarray]:
    share = 1.0 - wanted / len(triangles)
    if share <= 0:
        return position, triangles
    made, faces = fast_simplification.simplify(position.astype(np.float32), triangles, target_reduction=share)
    return made.astype(np.float64), faces.astype(np.int32)


def mixed(low: str, high: str, share: np.ndarray) -> np.ndarray:
    a, b = (np.array(hex_to_linear(text, "prop")) for text in (low, high))
    t = np.clip(share, 0, 1)[:, None]
    return a * (1 - t) + b * t


def stood(position: np.ndarray, foot: float = 0.0) -> np.ndarray:
    # the pivot lies in the middle, so much above the lowest point
    low, high = position.min(axis=0), position.max(axis=0)
    return position - np.array([(low[0] + high[0]) / 2, low[1] + foot, (low[2] + high[2]) / 2])


def rock(seed: int, size: tuple[float, float, float], cuts: int, rough: float, wanted: int, foot: float) -> Mesh:
    """A ball cut by planes, roughened and stretched."""
    rng = np.random.default_rng(seed)
    position, triangles = ball(0.09)
    for _ in range(cuts):
        way = rng.normal(size=3)
        way /= np.linalg.norm(way)
        beyond = position @ way - rng.uniform(0.55, 0.85)
        position -= np.maximum(beyond, 0)[:, None] * way * 0.92
    position *= 1 + rough * noise(position, 0.9, seed)[:, None] + 0.4 * rough * noise(position, 0.3, seed + 1)[:, None]
    position *= np.array(size) / 2
    shade = 0.5 + noise(position, 0.35 * max(size), seed + 2)
    position, triangles = fewer(position, triangles, wanted)
    shade = 0.5 + 0.8 * noise(position, 0.35 * max(size), seed + 2) + 0.3 * (position[:, 1] / size[1])
    return stood(position, foot), triangles, mixed("#4b4843", "#8f897c", shade)


def blades(seed: int, count: int, high: float, wide: float, lean: float, low: str, top: str) -> Mesh:
    """Blades of grass that bend outward."""
    rng = np.random.default_rng(seed)
    position, triangles, shade = [], [], []
    for _ in range(count):
        turn, out = rng.uniform(0, 2 * math.pi), rng.uniform(0.2, 1.0) * lean
        tall, at = high * rng.uniform(0.55, 1.0), rng.normal(scale=0.16 * high, size=2)
        way, side = np.array([math.cos(turn), math.sin(turn)]), np.array([-math.sin(turn), math.cos(turn)])
        begin = len(position)
        for step in range(4):
            t = step / 3
            middle = at + way * tall * out * t**1.7
            half = wide * (1 - t) ** 0.7 * 0.5
            y = tall * (t - 0.25 * out * t * t) - 0.06 * high
            ends = (-1, 1) if step < 3 else (0,)
            for s in ends:
                place = middle + side * half * s
                position.append((place[0], y, place[1]))
                shade.append(t + rng.uniform(-0.15, 0.15))
        for step in range(2):
            a, b, c, d = (begin + 2 * step + k for k in range(4))
            triangles += [(a, b, c), (b, d, c), (c, b, a), (c, d, b)]
        a, b, c = begin + 4, begin + 5, begin + 6
        triangles += [(a, b, c), (c, b, a)]
    return np.array(position), np.array(triangles, np.int32), mixed(low, top, np.array(shade))


def limb(path: np.ndarray, radius: np.ndarray, around: int = 6) -> tuple[np.ndarray, np.ndarray]:
    """A bent tube, closed at both ends."""
    along = np.gradient(path, axis=0)
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    side = np.cross(along, [0.31, 0.2, 0.93])
    side /= np.linalg.norm(side, axis=1, keepdims=True)
    other = np.cross(along, side)
    turn = np.arange(around) * 2 * math.pi / around
    ring = np.cos(turn)[None, :, None] * side[:, None] + np.sin(turn)[None, :, None] * other[:, None]
    position = (path[:, None] + ring * radius[:, None, None]).reshape(-1, 3)
    triangles = []
    for i in range(len(path) - 1):
        for k in range(around):
            a, b = i * around + k, i * around + (k + 1) % around
            triangles += [(a, b, a + around), (b, b + around, a + around)]
    ends = [path[0], path[-1]]
    for which, base in ((0, 0), (1, (len(path) - 1) * around)):
        for k in range(around):
            a, b = base + k, base + (k + 1) % around
            triangles.append((len(position) + which, b, a) if which == 0 else (len(position) + which, a, b))
    return np.concatenate((position, ends)), np.array(triangles, np.int32)


def joined(parts: list[Mesh]) -> Mesh:
    position, triangles, colour, before = [], [], [], 0
    for place, faces, paint in parts:
        position.append(place)
        triangles.append(faces + before)
        colour.append(paint)
        before += len(place)
    return np.concatenate(position), np.concatenate(triangles).astype(np.int32), np.concatenate(colour)


def clump(seed: int, middle: tuple[float, float, float], size: tuple[float, float, float], low: str, high: str,
          wanted: int) -> Mesh:  # fmt: skip
    """A ragged mass of leaves."""
    position, triangles = ball(0.16)
    position *= 1 + 0.35 * noise(position, 0.5, seed, 2)[:, None]
    position *= np.array(size) / 2
    position, triangles = fewer(position, triangles, wanted)
    shade = 0.45 + 0.7 * position[:, 1] / size[1] + 0.5 * noise(position, 0.3 * size[0], seed + 5, 2)
    return position + middle, triangles, mixed(low, high, shade)


def tussock() -> Mesh:
    return blades(11, 46, 0.42, 0.035, 0.95, "#55652b", "#bdb96e")


def shrub() -> Mesh:
    parts = [clump(21 + i, at, size, "#26331a", "#5d6f35", 110) for i, (at, size) in enumerate((
        ((0.0, 0.36, 0.0), (0.9, 0.72, 0.85)), ((0.38, 0.28, 0.1), (0.6, 0.5, 0.6)), ((-0.3, 0.26, 0.24), (0.6, 0.5, 0.5)),
        ((-0.05, 0.27, -0.36), (0.62, 0.46, 0.55)),
    ))]  # fmt: skip
    return joined(parts)


def wind_bent_tree() -> Mesh:
    t = np.linspace(0, 1, 9)
    path = np.stack((0.1 * t + 1.3 * t**2.2, -0.25 + 3.0 * t - 0.35 * t**3, 0.12 * np.sin(4 * t)), axis=1)
    parts: list[Mesh] = []
    place, faces = limb(path, 0.17 * (1 - 0.72 * t), 7)
    parts.append((place, faces, mixed("#3a2f26", "#6d5c4b", 0.5 + noise(place, 0.4, 31))))
    for i, (begin, way) in enumerate(((5, (1.1, 0.25, 0.5)), (6, (1.2, 0.3, -0.5)), (7, (0.9, 0.55, 0.1)))):
        s = np.linspace(0, 1, 4)[:, None]
        bough = path[begin] + s * way
        place, faces = limb(bough, 0.06 * (1 - 0.6 * s[:, 0]), 5)
        parts.append((place, faces, mixed("#3a2f26", "#6d5c4b", np.full(len(place), 0.5))))
        x, y, z = path[begin] + np.array(way) * 0.85
        parts.append(clump(41 + i, (x, y + 0.12, z), (1.7, 0.72, 1.25), "#1f2d18", "#566b36", 130))
    parts.append(clump(47, (1.15, 2.75, 0.0), (1.9, 0.75, 1.5), "#1f2d18", "#5d7038", 150))
    return joined(parts)


def driftwood() -> Mesh:
    t = np.linspace(0, 1, 9)
    path = np.stack((2.2 * (t - 0.5), 0.1 + 0.12 * np.sin(3 * t), 0.18 * np.sin(5 * t)), axis=1)
    place, faces = limb(path, 0.11 * (1 - 0.6 * t) + 0.03, 7)
    place *= 1 + 0.08 * noise(place, 0.25, 51)[:, None]
    parts = [(place, faces, mixed("#7d7468", "#c9c0b0", 0.5 + noise(place * [1, 4, 4], 0.5, 52)))]
    s = np.linspace(0, 1, 4)[:, None]
    place, faces = limb(path[3] + s * [0.45, 0.42, 0.3], 0.05 * (1 - 0.7 * s[:, 0]), 5)
    parts.append((place, faces, mixed("#7d7468", "#c9c0b0", np.full(len(place), 0.5))))
    return joined(parts)


def stalagmite() -> Mesh:
    t = np.linspace(0, 1, 12)
    path = np.stack((0.04 * np.sin(5 * t), -0.15 + 1.75 * t, 0.04 * np.cos(4 * t)), axis=1)
    radius = 0.36 * (1 - t) ** 0.75 * (1 + 0.12 * np.sin(15 * t)) + 0.02
    place, faces = limb(path, radius, 11)
    away = place * [1, 0, 1]
    place = place + away * 0.22 * noise(place, 0.35, 61)[:, None]
    return place, faces, mixed("#7c6f5b", "#d6c7a8", 0.45 + noise(place * [1, 0.3, 1], 0.3, 62))


def ice_shard() -> Mesh:
    parts: list[Mesh] = []
    for i, (lean, turn, high, wide) in enumerate(
        ((0.12, 0.4, 1.7, 0.3), (0.4, 2.3, 1.1, 0.22), (0.34, 4.3, 0.85, 0.2), (0.55, 5.6, 0.6, 0.15))
    ):
        t = np.array([0.0, 0.72, 1.0])
        way = np.array([math.sin(lean) * math.cos(turn), math.cos(lean), math.sin(lean) * math.sin(turn)])
        path = (t[:, None] * high - 0.15) * way + [0.12 * math.cos(turn) * (i > 0), 0, 0.12 * math.sin(turn) * (i > 0)]
        place, faces = limb(path, np.array([wide, 0.75 * wide, 0.015]), 6)
        # every face by itself, so that it is drawn flat
        place = place[faces].reshape(-1, 3)
        faces = np.arange(len(place), dtype=np.int32).reshape(-1, 3)
        parts.append((place, faces, mixed("#8fb4c4", "#eef7fa", 0.3 + 0.5 * place[:, 1] / high)))
    return joined(parts)


def slab(seed: int) -> Mesh:
    return rock(seed, (1.9 + 0.3 * (seed % 3), 0.42 + 0.1 * (seed % 2), 1.3), 12, 0.10, 260, 0.12)


def scree() -> Mesh:
    parts = []
    rng = np.random.default_rng(71)
    for i in range(7):
        place, faces, paint = rock(72 + i, tuple(rng.uniform(0.14, 0.34, 3)), 7, 0.12, 70, 0.05)
        at = np.array([rng.uniform(-0.5, 0.5), 0, rng.uniform(-0.5, 0.5)])
        parts.append((place + at, faces, paint))
    return joined(parts)


MAKERS = {
    "boulder_1": lambda: rock(1, (1.7, 1.3, 1.5), 9, 0.14, 380, 0.25),
    "boulder_2": lambda: rock(2, (2.1, 1.5, 1.6), 11, 0.16, 420, 0.3),
    "boulder_3": lambda: rock(3, (1.2, 1.1, 1.1), 8, 0.15, 320, 0.2),
    "slab_1": lambda: slab(4), "slab_2": lambda: slab(5), "slab_3": lambda: slab(6), "scree": scree, "tussock": tussock,
    "shrub": shrub, "wind_bent_tree": wind_bent_tree, "driftwood": driftwood, "stalagmite": stalagmite,
    "ice_shard": ice_shard,
}  # fmt: skip


def main() -> None:
    FOLDER.mkdir(exist_ok=True)
    for name in SHIPPED:
        position, triangles, colour = MAKERS[name]()
        made = coloured_mesh(position.astype(np.float32), triangles, colour.astype(np.float32))
        file = pathlib.Path(FOLDER / f"{name}.npz")
        np.savez_compressed(
            file, position=made.position, triangles=made.triangles.astype(np.uint16),
            colour=np.rint(np.clip(made.colour, 0, 1) * 255).astype(np.uint8),
        )  # fmt: skip
        print(f"{name}: {len(triangles)} triangles, {file.stat().st_size:,} bytes")


if __name__ == "__main__":
    main()
