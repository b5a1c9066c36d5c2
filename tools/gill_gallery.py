"""The recipe of Gill Gallery, a cave seen from inside: see `make_demo.py`. The place is invented."""

import math

import numpy as np

from hulmo.core.commands import (
    AddBody,
    AddLayer,
    Bore,
    ChangeGround,
    Command,
    Cure,
    LayRelief,
    PlaceFigure,
    Recast,
    Reduce,
    RemoveGround,
    SetLight,
    SetName,
    SetViewpoint,
    Stroke,
    UseRules,
)

Place = tuple[float, float, float]
Sample = tuple[float, ...]

GALLERY: tuple[Place, ...] = (
    (-31.0, 7.0, 5.0), (-19.0, 7.6, 3.0), (-9.0, 8.2, -1.5), (1.0, 9.4, -3.0), (11.0, 8.6, -0.5), (20.0, 9.4, 4.0),
    (31.0, 10.4, 6.0),
)  # fmt: skip
WIDTHS = (3.0, 3.4, 4.4, 6.6, 4.6, 3.4, 2.6)
SIDE: tuple[Place, ...] = ((1.0, 8.0, -5.0), (-1.0, 7.4, -12.0), (3.0, 6.6, -18.0))
SHAFT: tuple[Place, ...] = ((5.0, 32.0, -6.0), (4.0, 22.0, -5.0), (3.0, 12.0, -3.5))


class Gallery:
    """Collects the commands of Gill Gallery."""

    body = "Gill"

    def __init__(self) -> None:
        self.rng = np.random.default_rng(31)
        self.commands: list[Command] = []

    def stroke(
        self,
        brush: str,
        samples: list[Sample],
        ground: str = "",
        layer: str = "",
        invert: bool = False,
        **settings: object,
    ) -> None:
        self.commands.append(Stroke(self.body, brush, tuple(samples), dict(settings), ground, invert, layer))

    def between(self, low: float, high: float) -> float:
        return float(self.rng.uniform(low, high))

    def middle(self, share: float) -> np.ndarray:
        """A point of the gallery's axis, 0 at its west mouth, 1 at its east mouth."""
        path = np.array(GALLERY)
        at = np.linspace(0, 1, len(path))
        return np.array([np.interp(share, at, path[:, axis]) for axis in range(3)])

    def toward(self, share: float, angle: float, pressure: float = 1.0) -> Sample:
        """A ray from the axis outward: angle 0 is up, 90 degrees the north wall, 180 down."""
        c, s = math.cos(math.radians(angle)), math.sin(math.radians(angle))
        values = [*self.middle(share), 0.0, c, -s, pressure]
        return tuple(round(float(value), 4) for value in values)

    def walls(self) -> None:
        """The rock, the passages through it, and beds of stone along their walls."""
        self.commands += [
            AddBody("block", {"size": 50.0, "height": 26.0, "depth": 36.0, "edge": 1.6}, self.body),
            Bore(self.body, GALLERY, irregularity=0.35, edge=0.42, seed=4, rough=0.3, rough_size=2.4, radii=WIDTHS),
            Bore(self.body, SIDE, radius=2.4, irregularity=0.4, edge=0.42, seed=9, rough=0.25, rough_size=1.8),
            Bore(
                self.body, SHAFT, irregularity=0.3, edge=0.42, seed=2, rough=0.25, rough_size=1.6, radii=(2.6, 1.7, 1.5)
            ),
            Cure(self.body, "thin"),
        ]
        for angle, thickness in ((52.0, 1.1), (75.0, 0.8), (-60.0, 1.0), (-82.0, 0.9), (28.0, 0.7)):
            start = self.between(0.12, 0.3)
            while start < 0.86:
                end = min(start + self.between(0.06, 0.16), 0.9)
                samples = [self.toward(share, angle + self.between(-3, 3)) for share in np.arange(start, end, 0.012)]
                self.stroke(
                    "ledge", samples, radius=1.5, height=self.between(0.35, 0.8), thickness=thickness, strength=90,
                    seed=int(self.between(1, 99)), grow="finer", edge=0.3,
                )  # fmt: skip
                start = end + self.between(0.02, 0.08)

    def floor(self) -> None:
        """A walkable floor of sediment, with a gully where the beck ran."""
        for share in np.arange(0.06, 0.96, 0.035):
            level = float(self.middle(share)[1]) - 2.6
            self.stroke(
                "infill", [self.toward(share, angle) for angle in (150, 180, 210)], radius=3.0, strength=90,
                plane="height", level=level,
            )  # fmt: skip
        samples = [self.toward(share, 180 + 14 * math.sin(17 * share)) for share in np.arange(0.08, 0.94, 0.01)]
        self.stroke(
            "raise", samples, invert=True, radius=0.9, height=0.55, strength=80, direction="up", grow="finer", edge=0.25
        )
        self.stroke("smooth", samples, radius=1.6, strength=40, passes=1)

    def dripstone(self) -> None:
        """Hanging and standing stones: pulled out of ceiling and floor, the mesh growing with them."""
        for _ in range(52):
            share, angle = self.between(0.3, 0.74), self.between(-42, 42)
            self.pull(share, angle, -self.between(0.8, 2.4), self.between(0.35, 0.7))
        for share, angle, length in (
            (0.43, 8, 3.4),
            (0.5, -18, 4.4),
            (0.545, 22, 3.8),
            (0.6, -6, 3.2),
            (0.66, 14, 2.8),
        ):
            self.pull(share, angle, -length, 1.15)
            self.pull(share, 180 - angle * 0.6, length * 0.4, 1.3)
        for _ in range(16):
            self.pull(self.between(0.34, 0.7), self.between(150, 210), self.between(0.4, 1.3), self.between(0.4, 0.8))

    def pull(self, share: float, angle: float, length: float, radius: float) -> None:
        """A haul along the plumb line from the wall at an angle."""
        way = np.array(self.toward(share, angle)[3:6])
        wide = float(np.interp(share, np.linspace(0, 1, len(WIDTHS)), WIDTHS))
        start = self.middle(share) + way * wide
        end = start + np.array([0.0, length, 0.0])
        samples = [tuple(round(float(v), 4) for v in place) for place in (start, (start + end) / 2, end)]
        self.stroke(
            "haul", samples, radius=round(radius, 3), strength=100.0, direction="axis", altitude=90.0, falloff="sharp",
            core=10.0, grow="finer", edge=round(max(0.14, radius / 4), 3),
        )  # fmt: skip

    def relief(self) -> None:
        """Weathering as layers: turned down afterwards, if wanted."""
        self.commands += [
            LayRelief(
                self.body, "noise", {"kind": "billow", "size": 1.1, "height": 0.06, "octaves": 3, "warp": 30.0, "seed": 3},
                "Weathering",
            ),
            AddLayer(self.body, "Cracks"),
        ]  # fmt: skip
        for _ in range(18):
            share, angle = self.between(0.12, 0.85), self.between(-110, 110)
            here = self.toward(share, angle)[:6]
            there = self.toward(share + self.between(0.01, 0.03), angle + self.between(-14, 14))[:6]
            self.commands.append(
                Stroke(
                    self.body,
                    "stamp",
                    (here, there),
                    {"image": "crack", "height_share": 22.0, "core": 70.0},
                    layer="Cracks",
                )
            )

        self.commands += [Cure(self.body, check) for check in CARE]

    def paint(self) -> None:
        """Walls, banks and floor by rules; by hand the stream bed, fallen stone under the shaft, and stains."""
        self.commands += [
            UseRules(self.body, "cave"),
            *(RemoveGround(name) for name in ("Dark basalt", "Bleached ledge", "Thrift turf", "Shell sand")),
            ChangeGround("Broken limestone", values={"variation": 0.2, "variation_size": 6.0, "break_up": True}),
            ChangeGround("Flowstone", values={"saturation": 0.85, "normal_strength": 1.2}),
        ]
        for offset in (-0.6, 0.0, 0.5):
            samples = [
                self.toward(share, 180 + 14 * math.sin(22 * share) + 8 * offset)
                for share in np.arange(0.03, 0.97, 0.008)
            ]
            self.stroke("lay", samples, "Washed gravel", radius=0.8, strength=70, core=30, spacing=30)
        for _ in range(22):
            samples = [self.toward(self.between(0.5, 0.58), self.between(150, 215))]
            self.stroke("lay", samples, "Broken limestone", radius=self.between(0.6, 1.4), strength=90, core=30)
        for side in (128, 232):
            for _ in range(12):
                share = self.between(0.08, 0.92)
                samples = [self.toward(share + 0.01 * i, side + self.between(-8, 8)) for i in range(4)]
                self.stroke("lay", samples, "Mud bank", radius=self.between(0.6, 1.2), strength=75, core=20)
        for _ in range(16):
            share, angle = self.between(0.1, 0.9), self.between(40, 100) * self.rng.choice((-1, 1))
            samples = [self.toward(share + 0.002 * i, angle + (9 * i if angle > 0 else -9 * i)) for i in range(5)]
            self.stroke("tint", samples, radius=self.between(0.3, 0.7), strength=60, colour="#b06a35")
        self.commands.append(PlaceFigure(FIGURE))

    def recipe(self) -> list[Command]:
        """The whole of it."""
        self.commands = [
            SetName("Gill Gallery"),
            SetLight(bearing=12.0, altitude=64.0, sun=5.0, sky=0.8, exposure=0.45),
            SetViewpoint("In the gallery", (-14.5, 7.4, 1.2), (2.0, 9.0, -2.4), 62.0),
            SetViewpoint("Under the shaft", (9.5, 7.6, -0.4), (0.0, 11.0, -3.4), 64.0),
            SetViewpoint("From the west mouth", (-29.0, 7.6, 4.8), (-9.0, 8.0, -1.0), 56.0),
        ]
        self.walls()
        self.floor()
        self.dripstone()
        # stones that grew through each other become one, and the rock's flat outside loses what it does not need
        self.commands += [Recast(self.body, 0.15, "volume"), Reduce(self.body, count=84_000)]
        self.commands += [Cure(self.body, check) for check in CARE]
        self.relief()
        self.paint()
        self.commands += [
            Cure(self.body, check) for check in ("border", *CARE, "border", *CARE, *CARE, "valence", "border")
        ]
        return self.commands


CARE = ("crossing", "turned", "thin", "valence", "crossing", "turned", "thin")
"""Checks whose faults are mended, one after the other: mending one can bring out another."""

FIGURE = (-8.0, 5.35, 0.0)
