"""Coherent noise at points in space."""

import numpy as np
from numpy.typing import NDArray
from pyfastnoiselite import pyfastnoiselite as library

Values = NDArray[np.float32]

KINDS = (
    ("fbm", "Rolling", "Fractal Brownian motion: even bumps of all sizes."),
    ("ridged", "Ridged", "Sharp crests over round hollows."),
    ("billow", "Billow", "Round cushions with sharp creases between them."),
    ("cellular", "Cells", "Cobbles: a bump for every cell, with seams."),
)


def fbm(points: NDArray[np.float32], size: float, octaves: int, seed: int) -> Values:
    """Fractal Brownian motion: gradient noise in octaves of doubled frequency and halved strength.

    Parameters
    ----------
    points : (K, 3) float32
        Metres.
    size : float
        Metres from one bump of the first octave to the next.
    octaves : int
        1 to 8.
    seed : int

    Returns
    -------
    (K,) float32
        About -1 to 1; the same for the same point, size, octaves and seed.
    """
    return coherent(points, "fbm", size, octaves, seed)


def coherent(points: NDArray[np.float32], kind: str, size: float, octaves: int, seed: int, warp: float = 0.0) -> Values:
    """Noise of one of the `KINDS`.

    Parameters
    ----------
    points : (K, 3) float32
        Metres.
    kind : str
    size : float
        Metres from one bump of the first octave to the next.
    octaves : int
        1 to 8, each of doubled frequency and halved strength.
    seed : int
    warp : float
        How far points are pushed about by another noise of the same size before they are looked up, in sizes; 0 not at
        all, 1 swirls.

    Returns
    -------
    (K,) float32
        About -1 to 1.
    """
    at = np.ascontiguousarray(points.T, np.float32)
    if warp > 0:
        push = [_made(seed + 101 + axis, size, 1, "OpenSimplex2", None).gen_from_coords(at) for axis in range(3)]
        at = at + np.float32(warp * size) * np.asarray(push, np.float32)
    if kind == "billow":
        # the fold of every octave at zero, where fBm passes through
        total, strength = np.zeros(points.shape[0], np.float32), 0.0
        for octave in range(octaves):
            part = _made(seed + octave, size / 2**octave, 1, "OpenSimplex2", None).gen_from_coords(at)
            total += np.float32(0.5**octave) * (2.0 * np.abs(part) - 1.0)
            strength += 0.5**octave
        return np.asarray(total / strength, np.float32)
    if kind == "cellular":
        # distance to the nearest cell point: 0 in the middle of a cell; turned over so that cells stand up
        return np.asarray(-1.0 - 2.0 * _made(seed, size, octaves, "Cellular", "FBm").gen_from_coords(at), np.float32)
    fractal = "Ridged" if kind == "ridged" else "FBm"
    return np.asarray(_made(seed, size, octaves, "OpenSimplex2", fractal).gen_from_coords(at), np.float32)


def _made(seed: int, size: float, octaves: int, kind: str, fractal: str | None) -> library.FastNoiseLite:
    noise = library.FastNoiseLite(seed=(seed + 2**31) % 2**32 - 2**31)  # any whole number, brought to 32 bits
    noise.noise_type = library.NoiseType[f"NoiseType_{kind}"]
    noise.fractal_type = library.FractalType[f"FractalType_{fractal or 'None'}"]
    noise.fractal_octaves = octaves
    noise.fractal_lacunarity = 2.0
    noise.fractal_gain = 0.5
    noise.frequency = 1.0 / size
    return noise
