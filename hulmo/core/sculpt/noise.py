"""Coherent noise at points in space."""

import numpy as np
from numpy.typing import NDArray
from pyfastnoiselite import pyfastnoiselite as library


def fbm(points: NDArray[np.float32], size: float, octaves: int, seed: int) -> NDArray[np.float32]:
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
    noise = library.FastNoiseLite(seed=seed)
    noise.noise_type = library.NoiseType.NoiseType_OpenSimplex2
    noise.fractal_type = library.FractalType.FractalType_FBm
    noise.fractal_octaves = octaves
    noise.fractal_lacunarity = 2.0
    noise.fractal_gain = 0.5
    noise.frequency = 1.0 / size
    return np.asarray(noise.gen_from_coords(np.ascontiguousarray(points.T, np.float32)), np.float32)
