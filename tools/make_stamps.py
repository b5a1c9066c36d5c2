"""Makes the shipped stamps: python tools/make_stamps.py. Grey 128 is flat; all of it is drawn by the formulas below."""

import pathlib

import numpy as np
from PIL import Image
from pyfastnoiselite import pyfastnoiselite as library

FOLDER = pathlib.Path(__file__).resolve().parent.parent / "hulmo" / "assets" / "stamps"
SIDE = 256


def noise(x: np.ndarray, y: np.ndarray, size: float, seed: int, ridged: bool = False) -> np.ndarray:
    made = library.FastNoiseLite(seed=seed)
    made.noise_type = library.NoiseType.NoiseType_OpenSimplex2
    made.fractal_type = library.FractalType.FractalType_Ridged if ridged else library.FractalType.FractalType_FBm
    made.fractal_octaves = 4
    made.frequency = 1.0 / size
    points = np.stack((x.ravel(), y.ravel())).astype(np.float32)
    return made.gen_from_coords(points).reshape(x.shape)


def smoothstep(low: float, high: float, value: np.ndarray) -> np.ndarray:
    t = np.clip((value - low) / (high - low), 0, 1)
    return t * t * (3 - 2 * t)


def stamps() -> dict[str, np.ndarray]:
    """Heights from -1 to 1."""
    line = (np.arange(SIDE) + 0.5) / SIDE * 2 - 1
    x, y = np.meshgrid(line, -line)
    r = np.hypot(x, y)
    fade = 1 - smoothstep(0.7, 0.98, r)
    rough = noise(x, y, 0.35, 3)
    away = np.abs(x + 0.16 * noise(y, 0 * y, 0.6, 7) + 0.05 * noise(y, 0 * y + 4, 0.15, 8))
    width = 0.11 * np.clip(1 - np.abs(y) ** 2, 0, 1) + 0.012
    crack = -np.exp(-((away / width) ** 1.4)) + 0.22 * np.exp(-(((away - 2 * width) / width) ** 2))
    bowl = r * (1 + 0.12 * rough)
    pit = -(1 - smoothstep(0.0, 0.75, bowl)) * (1 + 0.18 * rough)
    bed = np.abs(x + 0.22 * np.sin(2.2 * y + 0.4))
    gully = -np.exp(-((bed / (0.30 - 0.12 * y)) ** 2)) * (1 + 0.2 * rough) * (0.55 - 0.45 * y)
    facets = [
        0.86 * x + 0.35 * y + 0.62,
        -0.75 * x + 0.3 * y + 0.66,
        -0.15 * x - 0.8 * y + 0.78,
        0.3 * x + 0.85 * y + 0.72,
    ]
    shard = np.clip(np.minimum.reduce(facets) * 1.25 + 0.05 * rough, 0, 1) ** 0.8
    ripple = np.sin(20 * y + 2.2 * noise(x, y, 0.9, 5)) * 0.55 * (1 + 0.3 * rough)
    rim = bowl / 0.62
    outside = np.maximum(rim - 1, 0)
    crater = np.where(rim < 1, -0.75 + 1.15 * rim**2.6, 0.4 * np.exp(-((outside / 0.28) ** 1.3)))
    crater = crater + 0.10 * noise(x * 3, y * 3, 0.4, 9) * smoothstep(0.5, 0.9, rim)
    relief = {"crack": crack, "pit": pit, "gully": gully, "shard": shard, "ripple": ripple, "crater": crater}
    made = {name: np.clip(height, -1, 1) * fade for name, height in relief.items()}
    # those to paint through: black around, so that nothing comes through there
    speck = noise(x, y, 0.045, 21) + 0.5 * noise(x, y, 0.017, 22)
    grain = smoothstep(0.12, 0.42, speck) * (1 - smoothstep(0.55, 0.97, r + 0.1 * rough))
    return made | {"grain": 2 * grain - 1, "spatter": 2 * spatter(x, y) - 1}


def spatter(x: np.ndarray, y: np.ndarray) -> np.ndarray:
    """Drops, many small and few large, denser toward the middle; 0 to 1."""
    draw = np.random.default_rng(31)
    out = np.zeros_like(x)
    for _ in range(190):
        away, turn = 0.85 * draw.random() ** 0.8, 2 * np.pi * draw.random()
        size = 0.008 + 0.075 * draw.random() ** 5 * (1 - 0.6 * away)
        across, along = x - away * np.cos(turn), y - away * np.sin(turn)
        outward = across * np.cos(turn) + along * np.sin(turn)
        aside = -across * np.sin(turn) + along * np.cos(turn)
        far = np.hypot(outward / (1 + 0.8 * away), aside)
        out = np.maximum(out, 1 - smoothstep(0.8 * size, 1.15 * size, far))
    return out


if __name__ == "__main__":
    FOLDER.mkdir(exist_ok=True)
    for name, height in stamps().items():
        # 16 bits, so that a large stamp shows no steps
        grey = np.round((height * 0.5 + 0.5) * 65534).astype(np.uint16)
        Image.fromarray(grey).save(FOLDER / f"{name}.png", optimize=True)
