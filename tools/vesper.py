"""Vesper, the ice moon: the recipe of the third demo."""

import math
import random

import numpy as np

from hulmo.core.commands import (
    AddBody,
    AddLayer,
    ChangeGround,
    Command,
    Cure,
    LayRelief,
    PlaceFigure,
    RemoveGround,
    SetBlend,
    SetDown,
    SetLight,
    SetName,
    SetRules,
    SetViewpoint,
    Stroke,
    UseRules,
)
from hulmo.core.ground.rules import Condition, Rule

RADIUS = 40.0

YOUNG = np.array([0.418, 0.219, 0.882])
"""Where the crater with rays is."""


class Moon:
    """Writes the commands one after another; the same ones every time."""

    body = "Vesper"

    def __init__(self) -> None:
        self.rng = random.Random(17)
        self.commands: list[Command] = []

    def between(self, low: float, high: float) -> float:
        """A random number, rounded so that the recipe stays readable."""
        return round(self.rng.uniform(low, high), 3)

    def anywhere(self) -> np.ndarray:
        """A direction, evenly spread."""
        way = np.array([self.rng.gauss(0, 1) for _ in range(3)])
        return way / np.linalg.norm(way)

    def beside(self, way: np.ndarray, far: float, turn: float) -> np.ndarray:
        """The direction `far` metres over the surface from another one."""
        helper = np.array([0.0, 1.0, 0.0]) if abs(way[1]) < 0.9 else np.array([1.0, 0.0, 0.0])
        side = np.cross(way, helper)
        side /= np.linalg.norm(side)
        along = math.cos(turn) * side + math.sin(turn) * np.cross(way, side)
        return math.cos(far / RADIUS) * way + math.sin(far / RADIUS) * along

    def ray(self, way: np.ndarray) -> tuple[float, ...]:
        """A ray from outside toward the middle."""
        return tuple(round(float(v), 4) for v in (*(2.2 * RADIUS * way), *(-way)))

    def stroke(self, brush: str, ways: list[np.ndarray], ground: str = "", layer: str = "", **settings: object) -> None:
        """A stroke over some places."""
        invert = bool(settings.pop("invert", False))
        samples = tuple(self.ray(way) for way in ways)
        self.commands.append(Stroke(self.body, brush, samples, dict(settings), ground, invert, layer))

    def line(self, start: np.ndarray, turn: float, length: float, sway: float = 0.5) -> list[np.ndarray]:
        """Places along a wandering line."""
        out, way = [], start
        for _ in range(max(2, int(length / 1.2))):
            out.append(way)
            turn += self.rng.uniform(-sway, sway) * 0.4
            way = self.beside(way, 1.2, turn)
        return out

    def shape(self) -> None:
        """Broad swells, old and young craters, fissures."""
        self.commands += [
            AddBody("icosphere", {"radius": RADIUS, "edge": 0.8}, self.body),
            SetDown(self.body, "centre", (0.0, 0.0, 0.0), RADIUS),
            LayRelief(
                self.body, "noise", {"kind": "fbm", "size": 38.0, "height": 1.7, "octaves": 3, "seed": 5}, "Swells"
            ),
            AddLayer(self.body, "Craters"),
        ]  # fmt: skip
        sizes = [4.6, *(self.between(1.4, 5.5) for _ in range(60)), 14.0, 11.0, 9.0, 7.5]
        for size in sorted(sizes, reverse=True):
            here = YOUNG if size == 4.6 else self.anywhere()
            there = self.beside(here, size, self.between(0, 6.283))
            self.commands.append(
                Stroke(
                    self.body, "stamp", (self.ray(here), self.ray(there)),
                    {"image": "crater", "height_share": self.between(30, 46), "core": 80.0}, layer="Craters",
                )
            )  # fmt: skip
        self.commands += [
            LayRelief(
                self.body, "weather", {"years": 250, "hard_by": "noise", "slide": 60, "angle": 34, "grain": 60}, "Sublimation"
            ),
            AddLayer(self.body, "Fissures"),
        ]  # fmt: skip
        for _ in range(13):
            way = self.line(self.anywhere(), self.between(0, 6.283), self.between(14, 40))
            self.stroke(
                "raise", way, layer="Fissures", invert=True, radius=self.between(0.9, 1.7), height=self.between(0.8, 1.6),
                strength=100.0, falloff="sharp",
            )  # fmt: skip
        self.commands.append(
            LayRelief(
                self.body,
                "noise",
                {"kind": "ridged", "size": 5.0, "height": 0.22, "octaves": 3, "warp": 30.0, "seed": 8},
                "Frost heave",
            )
        )

    def paint(self) -> None:
        """Ice, frost, dust and crust by rules; by hand rays of frost, vents of crust, a dusted plain."""
        self.commands += [
            UseRules(self.body, "ice_moon"),
            SetRules(self.body, RULES, "Blue ice"),
            SetBlend("height", 0.75),
            *(RemoveGround(name) for name in ("Dark basalt", "Bleached ledge", "Thrift turf", "Shell sand")),
            ChangeGround("Blue ice", values={"variation": 0.2, "variation_size": 18.0}),
            ChangeGround("Frost", values={"break_up": True, "variation": 0.08, "variation_size": 12.0}),
        ]
        for turn in np.arange(0, 6.283, 0.37):  # rays, each straight away from the crater and thinner on the way
            far = self.between(9, 26)
            for begin, end, radius in ((3.0, 0.5 * far, 1.5), (0.4 * far, far, 0.9)):
                ray = [self.beside(YOUNG, float(away), turn) for away in np.arange(begin, end, 1.2)]
                self.stroke("lay", ray, "Frost", radius=radius, strength=self.between(40, 70), falloff="smooth")
        for _ in range(9):
            vent = self.anywhere()
            self.stroke("lay", [vent], "Sulphur crust", radius=self.between(1.6, 3.2), strength=90, core=25)
            self.stroke("tint", [vent], radius=self.between(2.5, 4.5), strength=45, colour="#d8a860")
        plain = [self.beside(np.array([-0.5, 0.2, 0.84]), far, 0.8 * far) for far in np.arange(0.0, 9.0, 1.1)]
        self.stroke("set", plain, "Dark dust", radius=4.0, share=65.0, core=20)
        self.stroke("give_back", [self.beside(plain[-1], 2.0, 1.0)], radius=2.5, strength=100)
        self.commands.append(PlaceFigure(FIGURE))

    def recipe(self) -> list[Command]:
        """The whole of it."""
        self.commands = [
            SetName("Vesper"),
            SetLight(bearing=118.0, altitude=24.0, sun=4.0, sky=0.55, exposure=-0.25),
            SetViewpoint("From orbit", (60.0, 46.0, 101.0), (0.0, 0.0, 0.0), 44.0),
            SetViewpoint("Low over the plain", (6.0, 45.6, 12.0), (-3.0, 41.0, -6.0), 52.0),
        ]
        self.shape()
        self.paint()
        self.commands += [
            Cure(self.body, check) for check in ("border", "thin", "valence", "border", "thin", "valence", "turned")
        ]
        return self.commands


CAP = Condition("noise", {"size": 9.0, "octaves": 5, "seed": 21}, low=-40.0, low_soft=70.0)
"""What frays the rims of the polar caps."""

RULES = (
    Rule("Dark dust", (Condition("bend", {"scale": 6.0}, high=-6.0, high_soft=30.0),
                       Condition("noise", {"size": 30.0, "octaves": 5, "seed": 5}, low=0.0, low_soft=60.0)), 0.75),
    Rule("Dark dust", (Condition("laid", low=0.3, low_soft=0.6),), 0.7),
    Rule("Sulphur crust", (Condition("bend", {"scale": 2.0}, high=-22.0, high_soft=16.0),
                           Condition("noise", {"size": 26.0, "octaves": 4, "seed": 11}, low=22.0, low_soft=30.0)), 0.8),
    Rule("Frost", (Condition("bend", {"scale": 4.0}, low=34.0, low_soft=26.0),
                   Condition("noise", {"size": 17.0, "octaves": 5, "seed": 8}, low=10.0, low_soft=70.0)), 0.6),
    Rule("Frost", (Condition("latitude", low=58.0, low_soft=16.0), CAP, Condition("slope", high=38.0, high_soft=14.0))),
    Rule("Frost", (Condition("latitude", high=-64.0, high_soft=14.0), CAP, Condition("slope", high=38.0, high_soft=14.0))),
)  # fmt: skip
"""Dust in hollows and where it was laid down, crust in cracks, frost on ridges, and two caps of it, of all sizes."""

FIGURE = (0.0, 42.2, 0.0)
