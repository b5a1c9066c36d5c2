"""Strewing: props from the tray set on the surface by share, none over another."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.areas import triangle_areas
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.strewn import BY_HAND, BY_RULE, FIXED, MOST_STREWN, REMOVED, Strewn, anchors
from hulmo.core.noise import fbm
from hulmo.core.props.prop import Prop, PropMesh
from hulmo.core.props.room import Room
from hulmo.core.setting import Choice, Number, Setting, Switch, Text, Values, number

Places = NDArray[np.float64]
Rows = NDArray[np.int32]

RADIUS = Number(
    "radius", "Radius", "m", 0.05, 10_000.0, 4.0, "How far the brush reaches.", comfort=(0.5, 50.0), curve=3.0
)

HOW: tuple[Setting, ...] = (
    Number("density", "Density", "per m²", 1e-5, 1000.0, 0.3, "How many are to stand on a square metre, where there is room.",
           comfort=(0.01, 5.0), curve=3.0),
    Number("spacing", "Spacing", "×", 0.2, 20.0, 1.1, "Times its outline that the room of each is; 1: they may touch.",
           comfort=(0.8, 3.0)),
    Number("size", "Size", "×", 0.01, 100.0, 1.0, "Times the size that the tray says.", comfort=(0.3, 3.0), curve=2.0),
    Number("lean", "Lean", "°", 0.0, 60.0, 4.0, "How far each may lean to any side."),
    Number("sunk", "Sunk", "%", 0.0, 200.0, 60.0, "How much of its foot stands in the ground.", comfort=(0, 100)),
    Number("slope_from", "Slope from", "°", 0.0, 180.0, 0.0, "Only where the ground is so steep."),
    Number("slope_to", "Slope to", "°", 0.0, 180.0, 50.0, "Only where it is no steeper."),
    Switch("heights", "Limit heights", False, "Only between two heights."),
    Number("height_from", "Height from", "m", -1e6, 1e6, 0.0, "Only above this height.", comfort=(-50.0, 100.0),
           only=(("heights", True),)),
    Number("height_to", "Height to", "m", -1e6, 1e6, 100.0, "Only below this height.", comfort=(-50.0, 100.0),
           only=(("heights", True),)),
    Text("ground", "On ground", "", "Only where this ground makes up half; empty: any."),
    Number("patches", "Patches", "m", 0.0, 1000.0, 0.0, "In patches of this size; 0: evenly.", comfort=(0.0, 30.0),
           curve=2.0),
    Number("seed", "Seed", "", 0, 999_999, 1, "Another number, another scatter.", comfort=(0, 100), whole=True),
)  # fmt: skip
"""How props are set, by brush and by rule."""

MODE = Choice("mode", "Does", (
    ("strew", "Strew", "Sets props until the ground is as thick with them as asked."),
    ("thin", "Thin out", "Takes away what is more than the density."),
    ("erase", "Erase", "Takes all away that the tray has ticked."),
    ("reseed", "Reseed", "Sets those that are there anew."),
), "strew", "What the brush does.")  # fmt: skip

SETTINGS: tuple[Setting, ...] = (MODE, RADIUS, *HOW)
"""Of the brush."""

TRIES = 3.0
"""How many places are tried for every prop that is missing."""


@dataclass(frozen=True)
class Tray:
    """What props are taken from.

    Attributes
    ----------
    props : tuple of Prop
        Ascending by number.
    meshes : mapping of int to PropMesh
    """

    props: tuple[Prop, ...]
    meshes: Mapping[int, PropMesh]

    @property
    def chosen(self) -> tuple[Prop, ...]:
        """Those with a share."""
        return tuple(prop for prop in self.props if prop.share > 0)

    def room(self, body: Body, spacing: float) -> Room:
        """Where there is room on a body."""
        return Room(body, self.props, dict(self.meshes), spacing)


class Strewing:
    """A stroke of the brush.

    Parameters
    ----------
    body : Body
    grounds : tuple of str
    tray : Tray
    values : dict
        Of `SETTINGS`.

    Raises
    ------
    InvalidInput
        Nothing of the tray is ticked, or there is no such ground.
    """

    def __init__(self, body: Body, grounds: tuple[str, ...], tray: Tray, values: Values) -> None:
        self._body, self._tray, self._values = body, tray, values
        if not tray.chosen:
            raise InvalidInput("strew: nothing of the tray has a share; tick a prop first")
        self._ground = ground_column(grounds, values)
        self._room = tray.room(body, number(values, "spacing"))
        self._rng = np.random.default_rng(int(number(values, "seed")))
        self.strewn = body.strewn if body.strewn is not None else Strewn.none()
        self._place = anchors(body, self.strewn)[0]

    def add(self, centre: Places) -> None:
        """Lay one dab around a place of the body, metres about its origin."""
        radius, mode = number(self._values, "radius"), str(self._values["mode"])
        inside = self._inside(centre, radius)
        if mode in ("erase", "reseed"):
            ticked = np.isin(self.strewn.prop, [prop.ident for prop in self._tray.chosen])
            gone = inside & ticked & self.strewn.there & (self.strewn.mark != FIXED)
            self._take_away(gone)
            inside = self._inside(centre, radius)
        if mode == "erase":
            return
        slots = self._body.index.within(centre, radius)
        area = triangle_areas(self._body.vertices["position"][self._body.corners.triangles[slots]])
        density = number(self._values, "density")
        if not slots.size or not area.sum() > 0:
            return
        # triangles reach beyond the brush: the share of points inside says how much of them lies within
        tries = int(np.clip(np.ceil(TRIES * density * min(area.sum(), 4 * np.pi * radius**2)) + 4, 8, 200_000))
        found = scattered(self._rng, slots, area, tries)
        wanted = self._dressed(found)
        place, _ = anchors(self._body, wanted)
        near = np.linalg.norm(place - centre, axis=1) < radius
        covered = float(area.sum()) * float(near.mean())
        missing = density * covered - float((inside & self.strewn.there).sum())
        if mode == "thin":
            self._thin(inside, -missing)
            return
        some = np.flatnonzero(near & allowed(self._body, wanted, self._values, self._ground))
        wanted = wanted.taken(some)
        count = int(missing) + int(self._rng.random() < missing - int(missing)) if missing > 0 else 0
        if not count or not wanted.count:
            return
        around = np.linalg.norm(self._place - centre, axis=1) < radius + 2.0 * self._room.widest(self.strewn)
        fits = np.flatnonzero(self._room.kept(self.strewn.taken(around), wanted))[:count]
        if self.strewn.count + fits.size > MOST_STREWN:
            raise InvalidInput(f"strew: a body can carry {MOST_STREWN:,} props; ask for fewer on a square metre")
        self.strewn = self.strewn.joined(wanted.taken(fits))
        self._place = np.concatenate((self._place, place[some][fits]))

    def _inside(self, centre: Places, radius: float) -> NDArray[np.bool_]:
        return np.asarray(np.linalg.norm(self._place - centre, axis=1) < radius)

    def _thin(self, inside: NDArray[np.bool_], more: float) -> None:
        rows = np.flatnonzero(inside & self.strewn.there & (self.strewn.mark != FIXED))
        if more >= 1 and rows.size:
            gone = np.zeros(self.strewn.count, np.bool_)
            gone[self._rng.choice(rows, min(rows.size, int(more)), replace=False)] = True
            self._take_away(gone)

    def _take_away(self, gone: NDArray[np.bool_]) -> None:
        # what a rule has set is remembered, so that the rule does not set it again
        ruled = gone & (self.strewn.mark == BY_RULE)
        mark = self.strewn.mark.copy()
        mark[ruled] = REMOVED
        self.strewn = self.strewn.changed(mark=mark).taken(~gone | ruled)
        self._place = self._place[~gone | ruled]

    def _dressed(self, found: tuple[Rows, NDArray[np.float32]]) -> Strewn:
        return dressed(self._rng, found, self._tray, self._values, BY_HAND)


def ground_column(grounds: tuple[str, ...], values: Values) -> int:
    """Column of the ground that props stand on; -1 for any.

    Raises
    ------
    InvalidInput
    """
    name = str(values["ground"])
    if name and name not in grounds:
        raise InvalidInput(f"strew: there is no ground {name!r}; the project has {', '.join(grounds)}")
    return grounds.index(name) if name else -1


def scattered(rng: np.random.Generator, slots: Rows, area: Places, count: int) -> tuple[Rows, NDArray[np.float32]]:
    """Places evenly at random on triangles: (count,) slots and (count, 2) weights of their second and third corners."""
    share = np.cumsum(area)
    which = np.searchsorted(share, rng.random(count) * share[-1]).clip(0, slots.size - 1)
    return slots[which], in_triangles(rng.random((count, 2)))


def in_triangles(two: Places) -> NDArray[np.float32]:
    """(K, 2) weights evenly over a triangle from (K, 2) numbers evenly over 0 to 1 (Turk 1990)."""
    root = np.sqrt(two[:, 0])
    return np.stack((root * (1.0 - two[:, 1]), root * two[:, 1]), axis=1).astype(np.float32)


def dressed(
    rng: np.random.Generator, found: tuple[Rows, NDArray[np.float32]], tray: Tray, values: Values, mark: int
) -> Strewn:
    """Props from the tray for some places, each with a size, a turn and a lean of its own."""
    slot, weight = found
    count = slot.size
    chosen = tray.chosen
    share = np.cumsum([prop.share for prop in chosen])
    which = np.searchsorted(share, rng.random(count) * share[-1]).clip(0, len(chosen) - 1)
    low, high, foot, upright, ident = (
        np.array([float(getattr(prop, name)) for prop in chosen])[which]
        for name in ("smallest", "largest", "foot", "upright", "ident")
    )
    size = low * (high / low) ** rng.random(count) * number(values, "size")
    lean = np.tan(np.radians(number(values, "lean"))) * np.sqrt(rng.random(count))
    to = rng.random(count) * 2.0 * np.pi
    return Strewn.none().changed(
        prop=ident, slot=slot, weight=weight, turn=rng.random(count) * 360.0, size=size,
        lean=np.stack((lean * np.cos(to), lean * np.sin(to)), axis=1),
        sink=foot * size * (number(values, "sunk") / 100.0), upright=upright, mark=np.full(count, mark),
    )  # fmt: skip


def allowed(body: Body, wanted: Strewn, values: Values, ground: int) -> NDArray[np.bool_]:
    """(K,) which of some props lie within the limits of slope, height, ground and patches."""
    place, normal = anchors(body, wanted)
    slope = np.degrees(np.arccos(np.clip((normal * body.up(place)).sum(axis=1), -1.0, 1.0)))
    height = body.heights(place)
    out = (slope >= number(values, "slope_from")) & (slope <= number(values, "slope_to"))
    if values["heights"]:
        out &= (height >= number(values, "height_from")) & (height <= number(values, "height_to"))
    if ground >= 0 and WEIGHT in body.vertices:
        column = body.vertices[WEIGHT][:, ground][body.corners.triangles[wanted.slot]]
        share = 1.0 - wanted.weight.sum(axis=1)
        lies = share * column[:, 0] + (wanted.weight * column[:, 1:]).sum(axis=1)
        out &= lies >= 0.5
    if number(values, "patches") > 0:
        noise = fbm(place.astype(np.float32), number(values, "patches"), 3, int(number(values, "seed")))
        out &= noise > 0
    return np.asarray(out)
