"""Writes the recipes of the demo projects: python tools/make_demo.py, then `hulmo run` builds them.

The places are invented. A recipe holds nothing but the commands a hand could have given in the window.
"""

import math
import pathlib
from collections.abc import Sequence

import numpy as np
from cobble_spires import Spires
from gill_gallery import CARE, Gallery
from vesper import Moon

from hulmo.core.commands import (
    AddBody,
    AddGround,
    AddLayer,
    AddLine,
    Bore,
    ChangeGround,
    ChangeLayer,
    Command,
    Cure,
    EvenOut,
    LayRelief,
    LinePoint,
    MergeLayer,
    MoveGround,
    PlaceFigure,
    Reduce,
    SetLight,
    SetName,
    SetRules,
    SetViewpoint,
    Stroke,
    UseRules,
)
from hulmo.core.ground.rule_sets import read_rule_set, shipped_rule_sets
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.recipe import write_recipe

FOLDER = pathlib.Path(__file__).resolve().parent.parent / "hulmo" / "demo"

Sample = tuple[float, ...]


def _short(values: list[float]) -> Sample:
    return tuple(round(float(value), 4) for value in values)


def inward(angle: float, height: float, pressure: float = 1.0) -> Sample:
    """A ray from far outside toward the axis."""
    c, s = math.cos(angle), math.sin(angle)
    return _short([90 * c, height, 90 * s, -c, 0, -s, pressure])


def down(x: float, z: float, pressure: float = 1.0) -> Sample:
    """A ray from above."""
    return _short([x, 120, z, 0, -1, 0, pressure])


class Skerry:
    """Collects the strokes of Tern Skerry."""

    body = "Skerry"

    def __init__(self) -> None:
        self.rng = np.random.default_rng(20)
        self.commands: list[Command] = []
        self.shelves: list[tuple[float, float, float]] = []

    def stroke(
        self, brush: str, samples: list[Sample], ground: str = "", invert: bool = False, **settings: object
    ) -> None:
        self.commands.append(Stroke(self.body, brush, tuple(samples), dict(settings), ground, invert))

    def between(self, low: float, high: float) -> float:
        return float(self.rng.uniform(low, high))

    def arc(self, start: float, end: float, height: float, sway: float = 0.0, step: float = 0.03) -> list[Sample]:
        """Samples around the stack, swaying up and down."""
        phase = self.between(0, 6.28)
        count = max(2, int(abs(end - start) / step))
        angles = np.linspace(start, end, count)
        return [
            inward(a, height + sway * math.sin(2.3 * a + phase) + 0.4 * sway * math.sin(7 * a), self.between(0.7, 1.0))
            for a in angles
        ]

    def form(self) -> None:
        """The large shape: lobes, a tilted top, a foot."""
        for angle, height in ((0.3, 3.2), (1.5, 2.2), (2.5, 3.6), (3.7, 2.8), (4.4, 1.8), (5.4, 3.2)):
            samples = [inward(angle + 0.12 * math.sin(y * 0.4), y) for y in np.arange(3, 23, 1.5)]
            self.stroke("raise", samples, radius=9.0, height=height, strength=100)
        for angle, height in ((0.95, 2.8), (2.0, 2.2), (3.1, 2.6), (4.9, 2.6), (6.0, 2.2)):
            samples = [inward(angle + 0.1 * math.sin(y * 0.3), y) for y in np.arange(4, 23, 1.5)]
            self.stroke("raise", samples, invert=True, radius=6.0, height=height, strength=100)
        for x, z, radius, height in ((-5, -4, 24, 6.5), (-10, 3, 13, 2.0), (5, -10, 12, 1.6), (-3, -12, 9, 1.2)):
            self.stroke("raise", [down(x, z)], radius=radius, height=height, strength=100, direction="up")
        for x, z, radius, height in ((14, 11, 20, 6.0), (17, -3, 12, 2.0), (2, 18, 12, 1.8)):
            self.stroke("raise", [down(x, z)], invert=True, radius=radius, height=height, strength=100, direction="up")
        for start in np.arange(0, 6.283, 0.3):
            # the foot spreads level: every short arc moves along one direction
            reach = 4.4 + 1.6 * math.sin(2 * start + 1.0) + self.between(-0.8, 0.8)
            self.stroke(
                "raise", self.arc(start, start + 0.32, 1.6, 0.3), radius=6.5, height=reach * 0.75, strength=100,
                direction="start",
            )  # fmt: skip
            self.stroke(
                "raise", self.arc(start, start + 0.3, 8.5, 0.6), radius=9.0, height=1.6, strength=100, direction="start",
            )  # fmt: skip
        self.even(4.5, 90)
        self.even(4.0, 80)
        for _ in range(2):
            samples = [down(x, z) for x in range(-20, 21, 4) for z in range(-20, 21, 4)]
            self.stroke("smooth", samples, passes=1, radius=7.0, strength=100, spacing=50)

    def even(self, radius: float, strength: float) -> None:
        """Smooth walls and top once over."""
        for level in np.arange(4.0, 29.0, radius * 0.8):
            self.stroke(
                "smooth",
                self.arc(0, 6.4, float(level), 0.0, 0.06),
                radius=radius,
                strength=strength,
                spacing=30,
                passes=1,
            )

    def ledges(self) -> None:
        """Bands of rock that jut out, each undercut below."""
        for level in (9.0, 14.0, 20.0, 25.5):
            angle = self.between(0, 1.5)
            while angle < 6.6:
                length = self.between(0.5, 1.7)
                jut = self.between(0.8, 1.5)
                tilt = level + self.between(-1.6, 1.6)
                self.shelves.append((angle, angle + length, tilt))
                self.stroke(
                    "raise",
                    self.arc(angle, angle + length, tilt, 0.6),
                    radius=self.between(1.9, 2.8), height=jut, strength=100, falloff="dome", core=20,
                )  # fmt: skip
                self.stroke(
                    "raise",
                    self.arc(angle - 0.05, angle + length + 0.05, tilt - 2.9, 0.6),
                    invert=True, radius=self.between(1.6, 2.2), height=jut * 0.45, strength=100,
                )  # fmt: skip
                angle += length + self.between(0.1, 0.9)

    def gullies(self) -> None:
        """Cracks worn down from the top."""
        for angle in (0.75, 1.75, 2.85, 3.35, 4.7, 5.75):
            samples = []
            for y in np.arange(26.5, 3.0, -0.8):
                angle += self.between(-0.035, 0.035)
                samples.append(inward(angle, float(y), self.between(0.6, 1.0)))
            self.stroke(
                "raise", samples, invert=True, radius=2.8, height=2.0, strength=100, falloff="sharp", core=15,
                direction="start",
            )  # fmt: skip

    def blocks(self) -> None:
        """Broken rock: many small steps out and in."""
        for _ in range(620):
            angle, y = self.between(0, 6.283), self.between(1.5, 25.5)
            size = self.between(0.7, 2.0)
            self.stroke(
                "raise",
                [inward(angle, y)],
                invert=bool(self.rng.random() < 0.5),
                radius=size, height=size * self.between(0.08, 0.22), strength=100, falloff="dome", core=45, direction="start",
            )  # fmt: skip
        for _ in range(160):
            angle, r = self.between(0, 6.283), 17 * math.sqrt(self.rng.random())
            size = self.between(0.8, 2.4)
            self.stroke(
                "raise",
                [down(r * math.cos(angle), r * math.sin(angle))],
                invert=bool(self.rng.random() < 0.45),
                radius=size, height=size * self.between(0.08, 0.2), strength=100, falloff="smooth", core=30,
            )  # fmt: skip

    def rim(self) -> None:
        """The edge of the top, worn here and built up there."""
        for _ in range(110):
            angle, r = self.between(0, 6.283), self.between(17.5, 23.5)
            size = self.between(1.6, 3.6)
            self.stroke(
                "raise",
                [down(r * math.cos(angle), r * math.sin(angle))],
                invert=bool(self.rng.random() < 0.7),
                radius=size, height=size * self.between(0.15, 0.4), strength=100, direction="up",
            )  # fmt: skip

    def passages(self) -> None:
        """A through-arch at the foot, and a blind sea cave."""
        arch = ((46.0, 3.6, 20.0), (25.0, 5.6, 1.0), (11.0, 5.9, -11.0), (-9.0, 5.2, -30.0), (-18.0, 4.0, -42.0))
        cave = ((22.0, 3.6, 34.0), (10.0, 5.4, 18.0), (3.0, 8.0, 9.0), (-3.0, 10.0, 3.0))
        self.commands += [
            Bore(self.body, arch, radius=4.8, irregularity=0.35, ground="Dark basalt", seed=5),
            Bore(self.body, cave, radius=3.4, irregularity=0.5, ground="Dark basalt", seed=8),
            EvenOut(self.body, 6),
        ]

    def relief(self) -> None:
        """Well-shaped triangles first; then a broad noise for the form, and
        layers: beds, a fine noise, cracks and pits by stamp."""
        for level in np.arange(2.0, 29.0, 2.5):
            self.stroke("even_out", self.arc(0, 6.4, float(level), 0.0, 0.06), radius=4.0, strength=100, spacing=25)
        self.even(2.2, 30)
        self.commands += [
            LayRelief(
                self.body, "noise", {"kind": "billow", "size": 4.5, "height": 0.5, "octaves": 3, "warp": 40.0, "seed": 7,
                 "slope_low": 35.0, "soft": 60.0},
                "Broad noise",
            ),
            MergeLayer(self.body, "Broad noise"),
            LayRelief(
                self.body, "terraces",
                {"step": 1.7, "sharpness": 55.0, "irregularity": 120.0, "seed": 4, "slope_low": 25.0, "slope_high": 70.0,
                 "soft": 60.0},
                "Beds",
            ),
            ChangeLayer(self.body, "Beds", strength=0.5),
            LayRelief(
                self.body, "noise", {"kind": "ridged", "size": 1.6, "height": 0.13, "octaves": 3, "warp": 20.0, "seed": 9,
                 "slope_low": 20.0, "soft": 50.0},
                "Fine noise",
            ),
            LayRelief(
                self.body, "weather",
                {"years": 900.0, "hardness": 62.0, "hard_by": "beds", "bed": 1.7, "grain": 60.0, "slide": 20.0, "seed": 3},
                "Weather",
            ),
            ChangeLayer(self.body, "Weather", strength=0.7),
            AddLayer(self.body, "Cracks and pits"),
        ]  # fmt: skip
        for _ in range(34):
            angle, level = self.between(0, 6.283), self.between(4.0, 24.0)
            size = self.between(1.4, 3.2)
            lean = self.between(-0.35, 0.35)
            image = "crack" if self.rng.random() < 0.7 else "pit"
            here = inward(angle, level)
            there = inward(angle + lean * size / 23, level + size)
            settings = {"image": image, "height_share": self.between(16, 34), "core": 75.0}
            self.commands.append(Stroke(self.body, "stamp", (here[:6], there[:6]), settings, layer="Cracks and pits"))

    def paint(self) -> None:
        """What lies of itself by rules; by hand the rim of turf, chutes of stones, landing sand and a bare brow."""
        # and gravel where water has laid it down, or runs together on level ground
        stack = read_rule_set(pathlib.Path(shipped_rule_sets()["sea_stack"]))
        gravel = Rule(
            "Scree",
            (
                Condition("laid", {}, low=0.04, low_soft=0.03),
                Condition("flow", {}, low=2.5, low_soft=1.0, join="or"),
                Condition("slope", {}, high=38.0, high_soft=8.0, join="and_group"),
                Condition("height", {}, low=1.5, low_soft=0.5),
            ),
            0.9,
        )
        self.commands += [
            UseRules(self.body, "sea_stack"),
            SetRules(self.body, (*stack.rules, gravel), stack.base),
            ChangeGround("Thrift turf", values={"break_up": True, "variation": 0.18, "variation_size": 9.0}),
            ChangeGround("Dark basalt", values={"variation": 0.15, "variation_size": 14.0, "brightness": 1.3}),
        ]
        for start in np.arange(0.2, 6.2, 0.42):
            samples = [
                down(r * math.cos(start + 0.05 * r), r * math.sin(start + 0.05 * r)) for r in np.arange(14.0, 20.0, 0.9)
            ]
            self.stroke(
                "lay", samples, "Thrift turf",
                radius=self.between(0.9, 1.8), strength=self.between(50, 85), core=20,
            )  # fmt: skip
        for angle in (0.75, 1.75, 2.85, 3.35, 4.7, 5.75):
            samples = [inward(angle + self.between(-0.05, 0.05), y) for y in np.arange(9.0, 2.5, -0.6)]
            self.stroke("lay", samples, "Scree", radius=self.between(1.6, 2.4), strength=90, core=35)
        for _ in range(12):
            a = self.between(0, 6.283)
            level = self.between(1.6, 3.6)
            samples = [inward(a + i * 0.03, level + 0.5 * math.sin(i * 0.6)) for i in range(9)]
            self.stroke(
                "lay", samples, "Shell sand", radius=self.between(1.2, 2.2), strength=self.between(60, 95), core=40
            )
        for _ in range(14):
            a, r = self.between(0, 6.283), 15 * math.sqrt(self.rng.random())
            self.stroke(
                "set", [down(r * math.cos(a), r * math.sin(a))], "Bleached ledge",
                radius=self.between(0.7, 1.6), share=85.0, core=30,
            )  # fmt: skip
        brow = [down(r, -3.0) for r in np.arange(-3.0, 4.0, 0.8)]
        self.stroke("give_back", brow, radius=2.0, strength=100, core=40)
        stain = [inward(2.2 + 0.02 * i, 20.0 - 0.8 * i) for i in range(14)]
        self.stroke("tint", stain, radius=1.2, strength=55, colour="#c98f4a", core=10)
        self.commands.append(PlaceFigure((12.0, 25.84, 8.0)))

    def track(self) -> None:
        """A foot track from the low brow up to the turf: a level bed, crisp to its rim."""
        way = (
            (18.6, 27.04, 11.5), (16.0, 24.93, 13.0), (11.0, 25.12, 13.2), (8.6, 25.86, 10.0),
            (10.0, 26.07, 5.5), (10.4, 28.38, 1.0), (6.4, 32.24, -1.2), (3.2, 32.98, 1.4),
            (-0.6, 34.39, 3.4), (-3.4, 36.37, 0.4), (-1.8, 36.5, -4.0), (-6.5, 36.68, -6.5),
        )  # fmt: skip
        carried = {
            "width": 1.3, "ground": "Bleached ledge", "cut": True, "tolerance": 0.02, "rows": "0.12", "relief": True,
            "level": "along", "steepest": 24.0, "rise": -0.06, "shoulder": 1.2,
        }  # fmt: skip
        points = tuple(LinePoint(place) for place in way)
        self.commands.append(AddLine("track", self.body, points, "Foot track", carried))
        self.commands += [
            Cure(self.body, check) for check in ("turned", "thin", "valence", "border", "valence", "border")
        ]

    def write(self) -> None:
        """The whole recipe."""
        self.commands = [
            SetName("Tern Skerry"),
            AddBody("column", {"radius": 23.0, "height": 30.0, "edge": 0.35}, self.body),
            AddGround("wet_weed"),
            AddGround("scree"),
            SetLight(bearing=215.0, altitude=36.0, sun=3.4, sky=1.0, exposure=0.0),
            SetViewpoint("From the boat", (60.0, 21.0, 56.0), (0.0, 15.5, 0.0), 36.0),
            SetViewpoint("From the air", (58.0, 62.0, 50.0), (0.0, 12.0, 0.0), 36.0),
            SetViewpoint("Through the arch", (67.0, 8.0, 38.0), (3.0, 13.5, -8.0), 44.0),
            SetViewpoint("Under the ledges", (44.0, 8.0, 24.0), (0.0, 16.0, -2.0), 46.0),
        ]
        self.form()
        self.ledges()
        self.gullies()
        self.even(3.0, 35)
        self.rim()
        self.blocks()
        self.passages()
        self.relief()
        self.commands.append(Reduce(self.body, count=86_000))
        self.commands += [Cure(self.body, check) for check in CARE]
        self.paint()
        self.commands += [
            Cure(self.body, check) for check in ("border", *CARE, "border", *CARE, *CARE, "valence", "border")
        ]
        self.track()
        _write("tern-skerry", self.commands)


def _write(name: str, commands: Sequence[Command]) -> None:
    # all of them are built on basalt
    write_recipe(FOLDER / f"{name}.json", [commands[0], MoveGround("Dark basalt", 0), *commands[1:]])


if __name__ == "__main__":
    Skerry().write()
    _write("gill-gallery", Gallery().recipe())
    _write("vesper", Moon().recipe())
    _write("cobble-spires", Spires().recipe())
