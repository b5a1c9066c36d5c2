"""Makes the shipped pen strokes: python tools/make_pen_strokes.py. Drawn by formulas, with a hand's unevenness added."""

import json
import math
import pathlib

import numpy as np

FILE = pathlib.Path(__file__).resolve().parent.parent / "hulmo" / "assets" / "pen_strokes.json"
COUNT = 60
STEP = 12.0


def stroke(name: str, label: str, path, pressure, lean=lambda t: (12.0, 18.0)) -> dict:  # type: ignore[no-untyped-def]
    rng = np.random.default_rng(len(name))
    sway = np.cumsum(rng.normal(0, 0.004, (COUNT, 2)), axis=0)
    samples = []
    for i in range(COUNT):
        t = i / (COUNT - 1)
        x, y = path(t)
        press = min(max(pressure(t) + float(rng.normal(0, 0.012)), 0.0), 1.0)
        tilt = lean(t)
        samples.append([
            round(i * STEP, 1), round(x + sway[i, 0], 4), round(y + sway[i, 1], 4), round(press, 3),
            round(tilt[0], 1), round(tilt[1], 1),
        ])  # fmt: skip
    samples[-1][3] = 0.0
    return {"name": name, "label": label, "samples": samples}


def main() -> None:
    strokes = [
        stroke(
            "swell", "Light, firm, light", lambda t: (2 * t - 1, 0.15 * math.sin(5 * t)),
            lambda t: math.sin(math.pi * t) ** 1.5,
        ),
        stroke("press", "Ever firmer", lambda t: (2 * t - 1, 0.3 - 0.6 * t), lambda t: 0.05 + 0.95 * t * t),
        stroke("feather", "Feather-light", lambda t: (2 * t - 1, 0.1 * math.sin(9 * t)), lambda t: 0.18),
        stroke(
            "hatch", "Back and forth", lambda t: (math.sin(18 * t) * 0.7, 1.2 * t - 0.6),
            lambda t: 0.45 + 0.4 * math.sin(18 * t),
        ),
        stroke(
            "lean", "Leaning over", lambda t: (2 * t - 1, 0.25 * math.sin(3 * t)), lambda t: 0.6,
            lambda t: (55.0 * t, 20.0 * t),
        ),
    ]  # fmt: skip
    lines = [json.dumps(entry, separators=(",", ":")) for entry in strokes]
    FILE.write_text("[\n" + ",\n".join(lines) + "\n]\n", encoding="utf-8")


if __name__ == "__main__":
    main()
