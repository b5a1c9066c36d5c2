"""Makes the shipped ground textures: python tools/make_grounds.py

Every set is synthesised from periodic noise, so it tiles without a seam: fBm by shaping white noise in the Fourier domain,
cells by nearest neighbours on a torus. The images belong to this project.
"""

import json
import pathlib
import shutil
import sys
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image
from scipy.ndimage import gaussian_filter, map_coordinates
from scipy.spatial import cKDTree

SIZE = 512
FOLDER = pathlib.Path(__file__).resolve().parent.parent / "hulmo" / "assets" / "grounds"

Field = NDArray[np.float64]


@dataclass
class Picture:
    """One set: sRGB colour 0-1, height 0-1, roughness 0-1, and how steep the height is taken for the normal map."""

    colour: Field
    height: Field
    rough: Field
    steep: float


def spread(field: Field) -> Field:
    """Stretch to 0-1 between the first and last percentile."""
    low, high = np.percentile(field, (0.5, 99.5))
    return np.clip((field - low) / (high - low), 0, 1)


def fbm(seed: int, slope: float = 2.0, low: float = 2.0, stretch: float = 1.0) -> Field:
    """Periodic noise whose amplitude falls with frequency; `stretch` over 1 draws it out sideways."""
    rng = np.random.default_rng(seed)
    fy, fx = np.meshgrid(np.fft.fftfreq(SIZE, 1 / SIZE), np.fft.fftfreq(SIZE, 1 / SIZE), indexing="ij")
    reach = np.hypot(fx * stretch, fy)
    amplitude = np.where(reach >= low, np.maximum(reach, 1) ** -slope, 0)
    return spread(np.fft.ifft2(np.fft.fft2(rng.standard_normal((SIZE, SIZE))) * amplitude).real)


def cells(seed: int, count: int, bend: float = 0.0) -> tuple[Field, Field, NDArray[np.int64], Field, Field]:
    """Distance to the nearest and second nearest of `count` points on the torus, which point, and the offset to it."""
    rng = np.random.default_rng(seed)
    side = int(np.ceil(np.sqrt(count)))
    gy, gx = np.meshgrid(np.arange(side), np.arange(side), indexing="ij")
    points = ((np.stack((gy, gx), -1).reshape(-1, 2) + rng.uniform(0.05, 0.95, (side * side, 2))) / side) % 1.0
    y, x = np.meshgrid((np.arange(SIZE) + 0.5) / SIZE, (np.arange(SIZE) + 0.5) / SIZE, indexing="ij")
    if bend:
        y = (y + (fbm(seed + 71, 1.8, 3) - 0.5) * bend) % 1.0
        x = (x + (fbm(seed + 72, 1.8, 3) - 0.5) * bend) % 1.0
    where = np.stack((y, x), -1).reshape(-1, 2)
    distance, index = cKDTree(points, boxsize=1.0).query(where, k=2)
    offset = (where - points[index[:, 0]] + 0.5) % 1.0 - 0.5
    shape = (SIZE, SIZE)
    first, second = distance[:, 0].reshape(shape) * side, distance[:, 1].reshape(shape) * side
    return (
        first,
        second,
        index[:, 0].reshape(shape),
        offset[:, 0].reshape(shape) * side,
        offset[:, 1].reshape(shape) * side,
    )


def per_cell(seed: int, index: NDArray[np.int64]) -> Field:
    """One random number 0-1 a cell."""
    return np.random.default_rng(seed).uniform(0, 1, index.max() + 1)[index]


def bent(field: Field, seed: int, far: float, slope: float = 2.0) -> Field:
    """Drag a periodic picture about by noise, `far` in shares of its size."""
    y, x = np.meshgrid(np.arange(SIZE), np.arange(SIZE), indexing="ij")
    dy = (fbm(seed, slope) - 0.5) * far * SIZE
    dx = (fbm(seed + 1, slope) - 0.5) * far * SIZE
    return map_coordinates(field, (y + dy, x + dx), order=1, mode="grid-wrap")


def hollow(field: Field, size: float) -> Field:
    """How far a point lies under its surroundings; positive in hollows."""
    return gaussian_filter(field, size, mode="wrap") - field


def step(field: Field, low: float, high: float) -> Field:
    """Smooth step from 0 at `low` to 1 at `high`."""
    t = np.clip((field - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def ramp(field: Field, *stops: tuple[float, str]) -> Field:
    """Colours between stops of (value, #rrggbb)."""
    at = [stop[0] for stop in stops]
    rgb = np.array([[int(stop[1][i : i + 2], 16) / 255 for i in (1, 3, 5)] for stop in stops])
    return np.stack([np.interp(field, at, rgb[:, i]) for i in range(3)], -1)


def over(below: Field, above: Field | str, share: Field) -> Field:
    """Lay a colour over another by a share."""
    top = ramp(np.zeros((SIZE, SIZE)), (0, above)) if isinstance(above, str) else above
    return below + (top - below) * share[..., None]


def basalt() -> Picture:
    first, second, index, dy, dx = cells(11, 36, 0.06)
    crack = 1 - step(second - first, 0.0, 0.16)
    facet = per_cell(12, index) * 0.5 + dy * (per_cell(13, index) - 0.5) * 0.5 + dx * (per_cell(14, index) - 0.5) * 0.5
    grain = fbm(15, 1.0, 10)
    pits = step(fbm(16, 0.9, 26), 0.74, 0.9)
    height = spread(0.55 * facet + 0.3 * fbm(17, 1.7, 3) + 0.13 * grain - 0.45 * crack - 0.16 * pits)
    tone = spread(0.5 * fbm(18, 1.5, 2) + 0.35 * grain + 0.25 * per_cell(19, index) - 0.5 * hollow(height, 5))
    colour = ramp(tone, (0, "#1f2224"), (0.45, "#3b3f41"), (0.8, "#565856"), (1, "#72716a"))
    colour = over(colour, "#6d5a40", 0.4 * step(fbm(20, 1.8, 3), 0.62, 0.85))
    lichen = step(fbm(21, 1.35, 7), 0.78, 0.86) * (1 - crack)
    colour = over(colour, ramp(fbm(22, 1, 12), (0, "#8d8f7c"), (1, "#a9a78b")), 0.65 * lichen)
    return Picture(over(colour, "#15171a", 0.7 * crack), height, np.clip(0.78 + 0.14 * grain - 0.1 * pits, 0, 1), 9.0)


def bleached_ledge() -> Picture:
    beds = bent(spread(fbm(31, 1.5, 2, 7.0)), 32, 0.04)
    first, second, _, _, _ = cells(33, 16, 0.25)
    crack = 1 - step(second - first, 0.0, 0.05)
    grain = fbm(34, 0.9, 12)
    height = spread(0.65 * beds + 0.25 * fbm(35, 1.6, 3) + 0.12 * grain - 0.35 * crack)
    tone = spread(0.45 * beds + 0.35 * fbm(36, 1.4, 3) + 0.3 * grain - 0.6 * hollow(height, 6))
    colour = ramp(tone, (0, "#6f6a5d"), (0.35, "#9b9483"), (0.7, "#b9b19d"), (1, "#d2cbb8"))
    colour = over(colour, "#b08a4a", 0.45 * step(fbm(37, 1.5, 4), 0.66, 0.9))
    colour = over(colour, "#4d4a42", 0.6 * crack)
    return Picture(colour, height, np.clip(0.82 + 0.12 * grain, 0, 1), 8.0)


def thrift_turf() -> Picture:
    first, second, index, dy, dx = cells(41, 1500, 0.02)
    blades = bent(fbm(42, 0.55, 40), 43, 0.02)
    tuft = spread((1 - first) * 0.6 + 0.4 * per_cell(44, index))
    cushions, _, _, _, _ = cells(45, 64, 0.08)
    height = spread(0.5 * (1 - cushions) + 0.3 * tuft + 0.3 * blades)
    tone = spread(0.4 * fbm(46, 1.4, 3) + 0.35 * blades + 0.3 * tuft - 0.9 * hollow(height, 4))
    colour = ramp(tone, (0, "#26301a"), (0.35, "#45562a"), (0.65, "#66763a"), (0.88, "#8a8d50"), (1, "#a79f66"))
    colour = over(colour, "#8a7a4c", 0.55 * step(fbm(47, 1.5, 3), 0.62, 0.88))
    bloom_first, _, bloom, _, _ = cells(48, 900)
    flower = (per_cell(49, bloom) > 0.86) * (1 - step(bloom_first, 0.16, 0.3)) * step(fbm(50, 1.7, 2), 0.45, 0.6)
    colour = over(colour, ramp(per_cell(51, bloom), (0, "#c37f9c"), (1, "#d9a7b8")), 0.9 * flower)
    return Picture(colour, spread(height + 0.25 * flower), np.clip(0.86 + 0.1 * blades, 0, 1), 8.0)


def shell_sand() -> Picture:
    y = np.arange(SIZE)[:, None] / SIZE * np.ones((1, SIZE))
    ripple = bent(0.5 + 0.5 * np.sin(2 * np.pi * 7 * y), 61, 0.16, 2.3)
    grain = fbm(62, 0.25, 60)
    height = spread(0.6 * ripple + 0.25 * fbm(63, 1.8, 2) + 0.13 * grain)
    tone = spread(0.4 * ripple + 0.35 * fbm(64, 1.6, 2) + 0.35 * grain)
    colour = ramp(tone, (0, "#a3927a"), (0.4, "#c4b498"), (0.75, "#d9ccb2"), (1, "#eae1cd"))
    chip_first, _, chip, _, _ = cells(65, 3600)
    chips = (per_cell(66, chip) > 0.93) * (1 - step(chip_first, 0.22, 0.34))
    shade = ramp(per_cell(67, chip), (0, "#6d6157"), (0.4, "#b9a7a0"), (0.7, "#f4efe4"), (1, "#d8b7a5"))
    return Picture(
        over(colour, shade, 0.85 * chips), spread(height + 0.18 * chips), np.clip(0.88 + 0.08 * grain, 0, 1), 4.0
    )


def wet_weed() -> Picture:
    strands = bent(fbm(71, 1.0, 8, 0.16), 72, 0.22, 2.1)
    fine = bent(fbm(73, 0.7, 24, 0.2), 74, 0.2, 2.1)
    bladder_first, _, bladder, _, _ = cells(75, 500, 0.02)
    bladders = (per_cell(76, bladder) > 0.72) * np.sqrt(np.clip(1 - (bladder_first / 0.32) ** 2, 0, 1))
    height = spread(0.6 * strands + 0.3 * fine + 0.3 * bladders)
    tone = spread(0.55 * strands + 0.3 * fine + 0.3 * fbm(77, 1.6, 3) - 0.8 * hollow(height, 5))
    colour = ramp(tone, (0, "#14130b"), (0.4, "#332c15"), (0.7, "#57491f"), (0.9, "#7a682e"), (1, "#938044"))
    colour = over(colour, "#3d4a22", 0.5 * step(fbm(78, 1.6, 2), 0.55, 0.8))
    colour = over(colour, "#8c7a3a", 0.5 * bladders)
    return Picture(colour, height, np.clip(0.34 + 0.3 * (1 - strands) + 0.1 * fine, 0, 1), 9.0)


def scree() -> Picture:
    height = np.zeros((SIZE, SIZE))
    colour = ramp(fbm(81, 1.0, 8), (0, "#2b2a27"), (1, "#4b4842"))
    for layer, (count, lift) in enumerate(((900, 0.25), (240, 0.55), (90, 0.85))):
        first, second, index, dy, dx = cells(82 + 10 * layer, count, 0.02)
        keep = per_cell(83 + layer, index) > (0.15, 0.35, 0.5)[layer]
        tilt_y, tilt_x = per_cell(84 + layer, index) - 0.5, per_cell(85 + layer, index) - 0.5
        plane = lift + 0.5 * (tilt_y * dy + tilt_x * dx) + 0.12 * per_cell(86 + layer, index)
        edge = step(second - first, 0.06, 0.24)
        stone = np.where(keep, plane * edge + 0.05 * fbm(87 + layer, 1.4, 6), -1)
        share = (stone > height) * step(second - first, 0.08, 0.16)
        shade = np.clip(0.35 + 0.5 * per_cell(88 + layer, index) + 0.3 * (fbm(89 + layer, 1.1, 6) - 0.5), 0, 1)
        rock = ramp(shade, (0, "#4a4844"), (0.5, "#77736a"), (0.85, "#96907f"), (1, "#a9a493"))
        colour = over(colour, rock, share)
        height = np.maximum(height, stone)
    height = spread(height)
    colour = over(colour, "#191917", np.clip(3.5 * hollow(height, 6), 0, 0.75))
    return Picture(colour, height, np.clip(0.8 + 0.14 * fbm(99, 0.9, 10), 0, 1), 10.0)


def blue_ice() -> Picture:
    first, second, index, _, _ = cells(101, 20, 0.2)
    vein = 1 - step(second - first, 0.0, 0.07)
    deep = fbm(102, 1.9, 2)
    scallop, _, _, _, _ = cells(103, 150, 0.08)
    height = spread(0.55 * scallop + 0.35 * fbm(104, 1.8, 3) - 0.2 * vein)
    tone = spread(0.6 * deep + 0.3 * fbm(105, 1.2, 5) + 0.15 * per_cell(106, index))
    colour = ramp(tone, (0, "#4f87a3"), (0.4, "#7aaec4"), (0.75, "#a9d0dc"), (1, "#d5eaee"))
    colour = over(colour, "#eef7f8", 0.7 * vein)
    bubbles = step(fbm(107, 0.6, 40), 0.86, 0.97)
    return Picture(
        over(colour, "#f4fafa", 0.5 * bubbles), height, np.clip(0.16 + 0.3 * vein + 0.25 * bubbles, 0, 1), 3.0
    )


def frost() -> Picture:
    first, _, index, _, _ = cells(111, 2500, 0.01)
    grain = fbm(112, 0.4, 30)
    drift = fbm(113, 2.0, 2)
    height = spread(0.5 * drift + 0.3 * (1 - first) + 0.25 * grain)
    tone = spread(0.5 * drift + 0.3 * grain + 0.2 * per_cell(114, index))
    colour = ramp(tone, (0, "#b4c3cf"), (0.4, "#d3dde3"), (0.8, "#e9eef0"), (1, "#f7f9f9"))
    return Picture(colour, height, np.clip(0.62 + 0.25 * grain - 0.15 * per_cell(115, index), 0, 1), 4.0)


def mud_bank() -> Picture:
    first, second, index, dy, dx = cells(121, 49, 0.1)
    crack = 1 - step(second - first, 0.02, 0.2)
    curl = step(first, 0.1, 0.65)
    grain = fbm(122, 0.8, 18)
    height = spread(0.35 * curl + 0.35 * fbm(123, 1.9, 2) + 0.1 * grain - 0.75 * crack)
    tone = spread(0.5 * fbm(124, 1.6, 2) + 0.2 * per_cell(125, index) + 0.25 * grain - 0.6 * hollow(height, 6))
    colour = ramp(tone, (0, "#3d2f22"), (0.4, "#644d38"), (0.75, "#87694d"), (1, "#a68a69"))
    return Picture(over(colour, "#2a2018", 0.75 * crack), height, np.clip(0.55 + 0.3 * fbm(126, 1.7, 2), 0, 1), 6.0)


def flowstone() -> Picture:
    y = np.arange(SIZE)[:, None] / SIZE * np.ones((1, SIZE))
    rims = bent(np.abs(np.sin(2 * np.pi * 5 * y)), 131, 0.3, 2.2)
    fine = bent(0.5 + 0.5 * np.sin(2 * np.pi * 38 * y), 132, 0.28, 2.2)
    grain = fbm(133, 0.9, 14)
    height = spread(0.6 * np.sqrt(rims) + 0.12 * fine + 0.2 * fbm(134, 1.7, 3) + 0.05 * grain)
    tone = spread(0.5 * rims + 0.2 * fine + 0.4 * fbm(135, 1.6, 2) + 0.1 * grain)
    colour = ramp(tone, (0, "#8b6a45"), (0.35, "#b8966a"), (0.7, "#d8bf95"), (1, "#efe2c4"))
    colour = over(colour, "#a4572e", 0.4 * step(fbm(136, 1.7, 2), 0.66, 0.9))
    return Picture(colour, height, np.clip(0.3 + 0.35 * (1 - rims) + 0.12 * grain, 0, 1), 7.0)


def broken_limestone() -> Picture:
    first, second, index, dy, dx = cells(141, 64, 0.1)
    crack = 1 - step(second - first, 0.02, 0.14)
    tilt = dy * (per_cell(142, index) - 0.5) + dx * (per_cell(143, index) - 0.5)
    grain = fbm(144, 0.9, 12)
    height = spread(0.5 * per_cell(145, index) + 0.7 * tilt + 0.2 * fbm(146, 1.6, 3) + 0.1 * grain - 0.5 * crack)
    tone = spread(0.35 * per_cell(147, index) + 0.4 * fbm(148, 1.5, 2) + 0.25 * grain - 0.7 * hollow(height, 5))
    colour = ramp(tone, (0, "#5b564e"), (0.4, "#837c70"), (0.75, "#a69e90"), (1, "#c2bbab"))
    colour = over(colour, "#8f6f4a", 0.35 * step(fbm(149, 1.7, 2), 0.62, 0.9))
    return Picture(over(colour, "#2c2823", 0.7 * crack), height, np.clip(0.78 + 0.14 * grain, 0, 1), 9.0)


def washed_gravel() -> Picture:
    height = np.zeros((SIZE, SIZE))
    colour = ramp(fbm(151, 1.0, 8), (0, "#3a342c"), (1, "#5c5346"))
    for layer, (count, lift) in enumerate(((3000, 0.2), (1100, 0.45), (380, 0.7))):
        first, _, index, _, _ = cells(152 + 10 * layer, count, 0.01)
        keep = per_cell(153 + layer, index) > (0.1, 0.4, 0.6)[layer]
        dome = np.sqrt(np.clip(1 - (first / 0.46) ** 2, 0, 1))
        stone = np.where(keep & (dome > 0), lift + 0.35 * dome, -1)
        share = ((stone > height) & keep) * step(dome, 0.05, 0.3)
        shade = np.clip(0.2 + 0.7 * per_cell(154 + layer, index) + 0.2 * (fbm(155 + layer, 1.0, 8) - 0.5), 0, 1)
        pebble = ramp(shade, (0, "#57503f"), (0.35, "#857a66"), (0.6, "#a3947b"), (0.85, "#8b8d8a"), (1, "#cfc7b5"))
        colour = over(colour, pebble, share)
        height = np.maximum(height, stone)
    height = spread(height)
    colour = over(colour, "#1d1a15", np.clip(3.0 * hollow(height, 5), 0, 0.7))
    return Picture(colour, height, np.clip(0.5 + 0.25 * fbm(158, 1.0, 8), 0, 1), 8.0)


def dark_dust() -> Picture:
    grain = fbm(161, 0.35, 50)
    drift = fbm(162, 2.1, 2)
    first, _, index, _, _ = cells(163, 1200)
    clods = (per_cell(164, index) > 0.9) * np.sqrt(np.clip(1 - (first / 0.3) ** 2, 0, 1))
    height = spread(0.6 * drift + 0.2 * grain + 0.3 * clods)
    tone = spread(0.5 * drift + 0.35 * grain + 0.25 * fbm(165, 1.5, 3))
    colour = ramp(tone, (0, "#241f1f"), (0.45, "#3b3433"), (0.8, "#544a47"), (1, "#6b5f59"))
    return Picture(over(colour, "#766a63", 0.5 * clods), height, np.clip(0.9 + 0.06 * grain, 0, 1), 4.0)


def sulphur() -> Picture:
    first, second, index, _, _ = cells(171, 220, 0.14)
    crust = step(second - first, 0.02, 0.2)
    grain = fbm(172, 0.8, 18)
    height = spread(0.45 * crust + 0.35 * fbm(173, 1.8, 2) + 0.2 * grain)
    tone = spread(0.45 * fbm(174, 1.6, 2) + 0.25 * per_cell(175, index) + 0.25 * grain - 0.5 * hollow(height, 5))
    colour = ramp(tone, (0, "#7d6420"), (0.35, "#b3983a"), (0.7, "#d6c364"), (1, "#ece3a5"))
    colour = over(colour, "#8a4a22", 0.4 * step(fbm(176, 1.8, 2), 0.66, 0.9))
    return Picture(over(colour, "#5a4a22", 0.5 * (1 - crust)), height, np.clip(0.72 + 0.18 * grain, 0, 1), 6.0)


def peat() -> Picture:
    fibres = bent(fbm(181, 0.9, 14, 0.3), 182, 0.1)
    grain = fbm(183, 0.6, 30)
    wet = step(fbm(184, 1.9, 2), 0.6, 0.8)
    height = spread(0.5 * fbm(185, 1.8, 2) + 0.3 * fibres + 0.15 * grain - 0.3 * wet)
    tone = spread(0.45 * fbm(186, 1.5, 3) + 0.35 * fibres + 0.25 * grain - 0.6 * hollow(height, 5))
    colour = ramp(tone, (0, "#1c140f"), (0.4, "#34261b"), (0.75, "#4f3b29"), (1, "#6d5439"))
    return Picture(over(colour, "#15100d", 0.5 * wet), height, np.clip(0.85 - 0.45 * wet + 0.08 * grain, 0, 1), 6.0)


def heath() -> Picture:
    first, _, index, _, _ = cells(191, 420, 0.04)
    bush = np.sqrt(np.clip(1 - (first / 0.62) ** 2, 0, 1)) * (per_cell(192, index) > 0.12)
    twigs = bent(fbm(193, 0.5, 44), 194, 0.015)
    height = spread(0.6 * bush + 0.25 * twigs + 0.2 * fbm(195, 1.6, 3))
    tone = spread(0.4 * bush + 0.4 * twigs + 0.25 * per_cell(196, index) - 0.7 * hollow(height, 4))
    colour = ramp(tone, (0, "#231d18"), (0.35, "#40382a"), (0.65, "#5e5a3c"), (1, "#85805a"))
    bloom = step(twigs, 0.48, 0.7) * step(bush, 0.25, 0.6) * (per_cell(197, index) > 0.35)
    colour = over(colour, ramp(per_cell(198, index), (0, "#7b4a6c"), (1, "#a4789c")), 0.75 * bloom)
    return Picture(colour, height, np.clip(0.88 + 0.08 * twigs, 0, 1), 9.0)


SETS = (
    ("basalt", "Dark basalt", "Broken dark lava rock with lichen.", 4.0, basalt),
    ("bleached_ledge", "Bleached ledge", "Pale bedded rock, dry and salt-stained.", 4.0, bleached_ledge),
    ("thrift_turf", "Thrift turf", "Short coastal turf with sea pinks.", 2.5, thrift_turf),
    ("shell_sand", "Shell sand", "Cream sand with broken shell.", 2.5, shell_sand),
    ("wet_weed", "Wet weed rock", "Rock under wet brown seaweed.", 2.5, wet_weed),
    ("scree", "Scree", "Loose angular stones.", 3.0, scree),
    ("blue_ice", "Blue ice", "Clear old ice with veins.", 6.0, blue_ice),
    ("frost", "Frost", "Fine dry frost over drifts.", 3.0, frost),
    ("mud_bank", "Mud bank", "Drying mud with wide cracks.", 2.5, mud_bank),
    ("flowstone", "Flowstone", "Cave calcite in rims and sheets.", 3.0, flowstone),
    ("broken_limestone", "Broken limestone", "Fallen blocks and shards of pale limestone.", 3.5, broken_limestone),
    ("washed_gravel", "Washed gravel", "Rounded pebbles, left by running water.", 1.8, washed_gravel),
    ("dark_dust", "Dark dust", "Fine dark dust with clods.", 4.0, dark_dust),
    ("sulphur", "Sulphur crust", "Yellow crust, cracked and stained.", 3.0, sulphur),
    ("peat", "Peat", "Wet dark peat with fibres.", 2.5, peat),
    ("heath", "Heath", "Low heather in bloom, seen from above.", 3.0, heath),
)


def normal_map(height: Field, steep: float) -> Field:
    """Tangent-space normals, +Y up the picture (OpenGL convention), as 0-1 colours."""
    soft = gaussian_filter(height, 0.7, mode="wrap")
    across = (np.roll(soft, -1, 1) - np.roll(soft, 1, 1)) / 2 * steep
    down = (np.roll(soft, -1, 0) - np.roll(soft, 1, 0)) / 2 * steep
    normal = np.stack((-across, down, np.ones_like(soft)), -1)
    return normal / np.linalg.norm(normal, axis=-1, keepdims=True) * 0.5 + 0.5


def save(values: Field, path: pathlib.Path, quality: int) -> None:
    """One JPEG without colour subsampling."""
    pixels = np.clip(np.rint(values * 255), 0, 255).astype(np.uint8)
    Image.fromarray(pixels).save(path, quality=quality, subsampling=0, optimize=True)


def main() -> None:
    """Make all sets, or those named on the command line."""
    wanted = set(sys.argv[1:])
    for name, _label, _help, _tile, make in SETS:
        if wanted and name not in wanted:
            continue
        picture = make()
        folder = FOLDER / name
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir(parents=True)
        save(picture.colour, folder / "albedo.jpg", 88)
        save(normal_map(picture.height, picture.steep), folder / "normal.jpg", 88)
        save(picture.rough, folder / "roughness.jpg", 80)
        save(picture.height, folder / "height.jpg", 90)
        print(f"{name}: {sum(file.stat().st_size for file in folder.iterdir()) / 1024:.0f} KiB")
    listing = [{"name": n, "label": label, "help": text, "tile": tile} for n, label, text, tile, _ in SETS]
    (FOLDER / "grounds.json").write_text(json.dumps(listing, indent=1) + "\n")


if __name__ == "__main__":
    main()
