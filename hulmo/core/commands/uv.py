"""Texture coordinates: laid, unwrapped, changed, packed, taken away."""

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.command import Command
from hulmo.core.commands.laid_uv import (
    FARTHEST,
    corners_of,
    faces_of,
    known_uv,
    laid_in,
    laid_uv,
    surface_of,
)
from hulmo.core.edit import Edit, SlotColumnDelta
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.sides import unit_normals
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import complete
from hulmo.core.uv import PROJECTIONS
from hulmo.core.uv.apart import packed_apart, unwrapped_apart
from hulmo.core.uv.pack import even_density
from hulmo.core.uv.sets import check_raster, uv_column

Uv = NDArray[np.float64]


class LayUv(Command, frozen=True, tag="lay_uv"):
    """Lay texture coordinates by a projection.

    Attributes
    ----------
    body : str
    way : str
        above, plane, box, cylinder, sphere or six_sides.
    settings : dict
        Of the way; see below.
    unit : float
        Metres that a unit covers; 0: all of it from 0 to 1.
    faces : str
        all or chosen.
    of : str
        surface; or form: as the body lies with its relief layers off.
    into : str
        Name of the set; empty for the first.
    """

    body: str
    way: str = "above"
    settings: dict[str, Any] = {}
    unit: float = 0.0
    faces: str = "all"
    of: str = "surface"
    into: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "lay_uv"
        if self.way not in PROJECTIONS:
            raise InvalidInput(f"{where}: way is {shown(self.way)}; it must be one of {', '.join(PROJECTIONS)}")
        projection = PROJECTIONS[self.way]
        values = complete(projection.settings, self.settings, f"{where} {self.way}")
        if not (self.unit == 0 or 1e-6 <= self.unit <= 1e6):
            raise InvalidInput(f"{where}: unit is {self.unit:g} m; it must be 0, or lie between 0.000001 and 1000000")
        body = project.unlocked_body(self.body, where)
        slots = faces_of(body, self.faces, where)
        position = surface_of(body, self.of, where).astype(np.float64)
        triangles = body.corners.triangles[slots]
        place = position.take(triangles, axis=0)
        # about a centre, the poles are those of the world
        up = body.up(np.zeros((1, 3)))[0] if body.down.even else np.array([0.0, 1.0, 0.0])
        uv = projection.lay(place, unit_normals(position, triangles), _ways(up), values)
        if self.unit:
            uv /= self.unit
        else:
            low, high = (np.array([least(uv[..., k]) for k in range(2)]) for least in (np.min, np.max))
            uv = (uv - low) / max(float((high - low).max()), 1e-12)
        return laid_uv(body, slots, uv, self.into, f"UV: {projection.label}", where)


class UnwrapUv(Command, frozen=True, tag="unwrap_uv"):
    """Unwrap a body, or some of its faces, into charts that lie flat beside each other with little stretch.

    Attributes
    ----------
    body : str
    faces : str
        all or chosen.
    of : str
        surface or form.
    bent : float
        How much a bend counts against a chart, 0.1 to 20: the smaller, the fewer charts.
    size, margin : int
        Texels of the image that it is for, and between charts.
    into : str
        Name of the set; empty for the first.
    """

    body: str
    faces: str = "all"
    of: str = "surface"
    bent: float = 2.0
    size: int = 2048
    margin: int = 4
    into: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "unwrap_uv"
        check_raster(self.size, self.margin, where)
        if not 0.1 <= self.bent <= 20.0:
            raise InvalidInput(f"{where}: bent is {self.bent:g}; it must lie between 0.1 and 20")
        body = project.unlocked_body(self.body, where)
        slots = faces_of(body, self.faces, where)
        triangles = body.corners.triangles[slots]
        rows, numbers = np.unique(triangles, return_inverse=True)
        position = surface_of(body, self.of, where)[rows]
        at = numbers.reshape(-1, 3).astype(np.int32)
        uv = unwrapped_apart(position, at, self.size, self.margin, self.bent, progress)
        return laid_uv(body, slots, uv, self.into, "Unwrap", where)


class ChangeUv(Command, frozen=True, tag="change_uv"):
    """Mirror, turn, scale and move texture coordinates, in this order.

    Attributes
    ----------
    body : str
    mirror : str
        Empty, u (left and right) or v (up and down).
    turn : float
        Degrees, counter-clockwise in the image.
    scale : [u, v]
        Factors; an image is repeated so many times more often.
    move : [u, v]
        To the right, and down.
    about : [u, v]
        Place that stays while it is mirrored, turned and scaled.
    faces : str
        all; chosen faces; charts in which some are chosen; edges or vertices: where those that are chosen lie.
    into : str
        Name of the set; empty for the first.
    """

    body: str
    mirror: str = ""
    turn: float = 0.0
    scale: tuple[float, float] = (1.0, 1.0)
    move: tuple[float, float] = (0.0, 0.0)
    about: tuple[float, float] = (0.5, 0.5)
    faces: str = "all"
    into: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "change_uv"
        if self.mirror not in ("", "u", "v"):
            raise InvalidInput(f"{where}: mirror is {shown(self.mirror)}; it must be empty, u or v")
        for name, values in (("turn", (self.turn,)), ("scale", self.scale), ("move", self.move), ("about", self.about)):
            if not all(math.isfinite(value) and abs(value) <= FARTHEST for value in values):
                raise InvalidInput(f"{where}: {name} must be numbers of up to {FARTHEST:g}")
        if 0.0 in self.scale:
            raise InvalidInput(f"{where}: a scale of 0 would leave nothing; choose another factor")
        body = project.unlocked_body(self.body, where)
        known = known_uv(body, self.into, where)
        meant = corners_of(body, self.faces, uv_column(self.into, where), where)
        slots = np.flatnonzero(meant.any(axis=1)).astype(np.int32)
        uv = known[slots].astype(np.float64) - self.about
        if self.mirror:
            uv[..., 0 if self.mirror == "u" else 1] *= -1.0
        c, s = math.cos(math.radians(self.turn)), math.sin(math.radians(self.turn))
        uv = uv @ np.array([[c, -s], [s, c]])  # v runs down
        uv = np.where(meant[slots][..., None], uv * self.scale + self.about + self.move, known[slots])
        return laid_uv(body, slots, uv, self.into, "Change UV", where)


class PackUv(Command, frozen=True, tag="pack_uv"):
    """Lay the charts of a body beside each other from 0 to 1.

    Attributes
    ----------
    body : str
    even : bool
        Whether every chart gets the same number of texels a metre; otherwise they keep their sizes to each other.
    turns : bool
        Whether charts may be turned.
    size, margin : int
        Texels of the image that it is for, and between charts.
    into : str
        Name of the set; empty for the first.
    others : list of str
        Bodies that are packed into the same image; *: all that have the set.
    """

    body: str
    even: bool = True
    turns: bool = True
    size: int = 2048
    margin: int = 4
    into: str = ""
    others: tuple[str, ...] = ()

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "pack_uv"
        check_raster(self.size, self.margin, where)
        column = uv_column(self.into, where)
        others = [body.name for body in project.bodies if column in body.corners.slots] if "*" in self.others else []
        named = [name for name in self.others if name != "*"]
        bodies = [project.unlocked_body(name, where) for name in dict.fromkeys((self.body, *named, *others))]
        parts, count = [], 0
        for body in bodies:
            laid = laid_in(body, self.into, where)
            uv = even_density(laid.uv, laid.area, laid.chart) if self.even else laid.uv
            parts.append((laid.slots, uv, laid.chart + count))
            count += int(laid.chart.max(initial=-1)) + 1
        every = np.concatenate([uv for _, uv, _ in parts])
        charts = np.concatenate([chart for _, _, chart in parts])
        every = packed_apart(every, charts, self.size, self.margin, self.turns, progress)
        ends = np.cumsum([slots.size for slots, _, _ in parts])[:-1]
        deltas = [
            delta
            for body, (slots, _, _), uv in zip(bodies, parts, np.split(every, ends), strict=True)
            for delta in laid_uv(body, slots, uv, self.into, "Pack UV", where).deltas
        ]
        return Edit("Pack UV", tuple(deltas))


class RemoveUv(Command, frozen=True, tag="remove_uv"):
    """Take a set of texture coordinates away.

    Attributes
    ----------
    body : str
    into : str
        Name of the set; empty for the first.
    """

    body: str
    into: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.unlocked_body(self.body, "remove_uv")
        old = known_uv(body, self.into, "remove_uv")
        delta = SlotColumnDelta(body.ident, "corner", uv_column(self.into, "remove_uv"), old.copy(), None)
        return Edit("Take UV away", (delta,))


def _ways(up: Uv) -> Uv:
    # east, up and south about a way up
    south = np.array([0.0, 0.0, 1.0]) - up * up[2]
    south = south if np.linalg.norm(south) > 1e-3 else np.array([1.0, 0.0, 0.0]) - up * up[0]
    south /= np.linalg.norm(south)
    return np.stack((np.cross(up, south), up, south))
