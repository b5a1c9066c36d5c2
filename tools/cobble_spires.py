"""Cobble Spires, the low-polygon floating rocks: the recipe of the fourth demo, made by hand work alone."""

import random

from hulmo.core.commands import (
    AddBody,
    AddGround,
    AddLine,
    Cap,
    ChooseParts,
    Command,
    Cure,
    CutLevels,
    JitterChosen,
    LayOnFaces,
    LinePoint,
    MoveChosen,
    PlaceBody,
    PlaceFigure,
    Reduce,
    RemoveGround,
    SetBlend,
    SetFacets,
    SetLight,
    SetName,
    SetViewpoint,
)

Triple = tuple[float, float, float]

GROUNDS = (("Cobble", "#7d736a"), ("Turf", "#54753a"), ("Lit stone", "#9c8d7a"), ("Trodden earth", "#a88c63"))

RINGS = ((0.10, 0.30), (0.24, 0.52), (0.40, 0.74), (0.56, 0.90), (0.72, 1.02), (0.88, 1.10))
"""Heights of a rock's sections, as shares, and how wide it is there."""


class Spires:
    """Writes the commands one after another; the same ones every time."""

    def __init__(self) -> None:
        self.rng = random.Random(6)
        self.commands: list[Command] = []

    def rock(self, name: str, at: Triple, radius: float, height: float, faces: int) -> None:
        """A column whose sections are scaled to a spire that hangs point down, thinned to a few facets."""
        do = self.commands.append
        do(AddBody("column", {"radius": radius, "height": height, "edge": radius * 0.45}, name, at))
        low, top = at[1], at[1] + height
        gap = height * (RINGS[1][0] - RINGS[0][0]) / 2
        for share, wide in RINGS:
            level = low + share * height
            do(CutLevels(name, (0.0, 1.0, 0.0), (at[0], level, at[2])))
            do(ChooseParts(name, "vertex", "height", low=level - gap, high=level + gap))
            x, z = (self.rng.uniform(-0.09, 0.09) * radius for _ in range(2))
            do(MoveChosen(name, "vertex", (x, 0.0, z), (0.0, self.rng.uniform(-14, 14), 0.0), (wide, 1.0, wide)))
        do(ChooseParts(name, "face", "facing", toward=(0.0, 1.0, 0.0), high=30.0))
        do(ChooseParts(name, "face", "invert"))
        do(ChooseParts(name, "vertex", "as", source="face"))
        do(JitterChosen(name, "vertex", 0.10 * radius, self.rng.randrange(1000)))
        do(ChooseParts(name, "vertex", "height", low=low - 9, high=low + 0.05 * height))
        do(MoveChosen(name, "vertex", (0.0, -0.16 * height, 0.0), scale=(0.3, 1.0, 0.3)))
        do(Reduce(name, count=faces))
        do(ChooseParts(name, "face", "height", low=top - 0.3 * height, high=top + 9))
        do(JitterChosen(name, "face", 5.0, self.rng.randrange(1000)))
        do(SetFacets(name, every=True))
        do(ChooseParts(name, "face", "facing", toward=(0.0, -1.0, 0.25), high=62.0))
        do(ChooseParts(name, "face", "random", share=0.22, seed=self.rng.randrange(1000)))
        do(LayOnFaces(name, "Lit stone"))

    def cap(self, name: str, lip: float, thick: float, above: float) -> None:
        """Turf on all that faces up, over a lip."""
        do = self.commands.append
        do(Cap(name, 32.0, lip, thick, "Turf", above=above))

    def slab(self, name: str, at: Triple, size: float, turn: float) -> None:
        """A flat stone that floats between two rocks, turfed as they are."""
        do = self.commands.append
        do(AddBody("block", {"size": size, "depth": size * 0.8, "height": size * 0.35, "edge": size * 0.5}, name, at))
        do(ChooseParts(name, "vertex", "height", low=at[1] - 9, high=at[1] + 0.05))
        do(MoveChosen(name, "vertex", scale=(0.45, 1.0, 0.5)))
        do(ChooseParts(name, "vertex", "all"))
        do(JitterChosen(name, "vertex", 0.09 * size, self.rng.randrange(1000)))
        do(SetFacets(name, every=True))
        do(PlaceBody(name, turn=(0.0, turn, 0.0)))
        do(Cap(name, 32.0, 0.12 * size, 0.14 * size, "Turf"))
        self.commands += [Cure(name, check) for check in ("thin", "border")]

    def path(self) -> None:
        """A trodden track over the great spire's turf, crisp to the edge."""
        do = self.commands.append
        way = ((-6.4, 2.6), (-3.4, 0.6), (0.4, 1.0), (3.4, -1.2), (6.6, -1.6))
        points = tuple(LinePoint((x, 32.0, z)) for x, z in way)
        do(AddLine("track", "Great spire", points, "Trodden track", {"width": 1.3, "cut": True, "tolerance": 0.1}))
        do(ChooseParts("Great spire", "face", "line", name="Trodden track"))
        do(LayOnFaces("Great spire", "Trodden earth"))

    def recipe(self) -> list[Command]:
        """The whole recipe."""
        do = self.commands.append
        do(SetName("Cobble Spires"))
        for name, colour in GROUNDS:
            do(AddGround("", name, 2.0, colour=colour))
        self.rock("Great spire", (0.0, 8.0, 0.0), 9.0, 22.0, 360)
        self.rock("East spire", (21.0, 13.0, -5.0), 5.2, 14.0, 260)
        self.rock("West spire", (-18.0, 4.0, 7.0), 6.0, 15.0, 280)
        self.rock("Shard", (9.0, 1.0, 13.0), 2.6, 7.0, 130)
        self.rock("Crumb", (-8.0, 24.0, -13.0), 2.2, 5.0, 110)
        for name, lip, thick, above in (
            ("Great spire", 0.7, 0.9, 28.0), ("East spire", 0.5, 0.7, 25.0), ("West spire", 0.5, 0.7, 17.0),
            ("Shard", 0.3, 0.4, 6.8), ("Crumb", 0.25, 0.35, 28.0),
        ):  # fmt: skip
            self.cap(name, lip, thick, above)
            self.commands += [
                Cure(name, check) for check in ("turned", "thin", "valence", "crossing", "thin", "valence")
            ]
        self.path()
        for i, (x, y, z) in enumerate(((11.9, 28.4, -3.4), (13.3, 27.7, -1.6), (14.6, 27.0, -4.4)), 1):
            self.slab(f"Slab {i}", (x, y, z), 1.9 - 0.2 * i, 37.0 * i)
        do(ChooseParts("Great spire", "face", "none"))
        for name in ("Great spire", "East spire", "West spire", "Shard", "Crumb"):
            self.commands += [Cure(name, check) for check in 2 * ("turned", "thin", "valence", "border")]
        self.commands += [
            *(RemoveGround(name) for name in ("Dark basalt", "Bleached ledge", "Thrift turf", "Shell sand")),
            SetBlend("linear"),
            SetLight(bearing=228.0, altitude=36.0, sun=3.4, sky=0.9),
            PlaceFigure((-3.0, 30.9, 0.8)),
            SetViewpoint("From below", (-34.0, 12.0, 42.0), (2.0, 19.0, 0.0), 42.0),
            SetViewpoint("Over the turf", (-20.0, 44.0, 28.0), (3.0, 25.0, 0.0), 40.0),
            SetViewpoint("Toward the east spire", (-5.2, 33.2, 2.6), (18.0, 27.0, -4.0), 60.0),
            SetViewpoint("From the shard", (13.0, 12.0, 22.0), (2.0, 22.0, 2.0), 55.0),
        ]
        return self.commands
