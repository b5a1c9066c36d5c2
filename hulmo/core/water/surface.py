"""The surface of a water, cut at the shores of all that stands in it."""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.areas import triangle_areas
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.corners_among import all_of, any_of
from hulmo.core.mesh.down import LEVEL, Down
from hulmo.core.mesh.flood import Flood, Spill, flood
from hulmo.core.mesh.graph import hanging_together
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.mesh.sounding import BURIED, OPEN, soundings
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.objects.scene_object import SceneObject, world_matrix
from hulmo.core.objects.water import body_of, water_settings
from hulmo.core.progress import Progress, silent
from hulmo.core.setting import number
from hulmo.core.topology.longest_edges import longest_edges
from hulmo.core.topology.split_edges import split_edges
from hulmo.core.water.sheet import flat_sheet, on_level, round_sheet
from hulmo.core.water.shore import shore_distance, shore_edges

Places = NDArray[np.float64]
Mask = NDArray[np.bool_]

COARSE, FINE = 48, 320
"""Edges that the sheet has from side to side before it is divided at shores, and that the finest ones there would make."""

ROUNDS = 16
"""How often it is divided at the most."""

HALVINGS = 7
"""How often the place of a shore on an edge is halved down to."""

DEEPEST = 1e4
"""Metres that stand for water with nothing below."""

BELOW_RIM = 1e-3
"""Metres that a pond stays below a place over which it would run out."""


@dataclass(frozen=True)
class WaterSurface:
    """Where a water stands.

    Attributes
    ----------
    position : (N, 3) float64
        Metres of the world.
    normal : (N, 3) float32
    triangles : (M, 3) int32
    depth : (N,) float32
        Metres straight down to the ground, 0 at the shore and under it; `DEEPEST` where there is none.
    shore : (N,) float32
        Metres to the nearest shore, below 0 under the ground.
    level : float
        Metres at which it stands; below what was asked for where it would run out.
    area, volume, deepest, shore_length : float
        Square metres, cubic metres over ground, metres, metres.
    spill : Spill or None
        Of a pond: where it runs out next; places in metres of the world.
    runs_out : bool
        Whether it is lower than it was asked to be because it runs out.
    """

    position: Places
    normal: NDArray[np.float32]
    triangles: NDArray[np.int32]
    depth: NDArray[np.float32]
    shore: NDArray[np.float32]
    level: float
    area: float
    volume: float
    deepest: float
    shore_length: float
    spill: Spill | None = None
    runs_out: bool = False


def water_surface(
    bodies: tuple[Body, ...],
    objects: tuple[SceneObject, ...],
    entry: SceneObject,
    progress: Progress | None = None,
) -> WaterSurface:
    """The surface of a water of the scene.

    Parameters
    ----------
    bodies : tuple of Body
        Of the project; those that are shown stand in it.
    objects : tuple of SceneObject
    entry : SceneObject
        A level water or a pond.
    progress : Progress, optional

    Raises
    ------
    InvalidInput
        Its body is gone, or the place of a pond is in no hollow.

    Notes
    -----
    The sheet is divided where a shore runs through a triangle (longest-edge bisection, Rivara 1984), then cut where it does.
    """
    at = world_matrix(objects, entry)[:3, 3]
    own = next((body for body in bodies if body.ident == body_of(entry)), None)
    if own is None and body_of(entry):
        raise InvalidInput(f"{entry.name!r}: the body that it stands on is gone")
    values = water_settings(entry)
    level, margin, edge = (number(values, name) for name in ("level", "margin", "edge"))
    shown = tuple(body for body in bodies if body.shown)
    progress = progress or silent()
    progress.step(0.0, f"finding where {entry.name} stands")
    if entry.kind == "level_water":
        down = LEVEL if own is None else own.down
        found = _cut(_level_sheet(down, level, at, number(values, "size"), edge), shown, None, margin, progress)
        assert found is not None, "level water is open"
        return found
    assert own is not None, "a pond lies on a body"
    pool = poured(own, at, level)
    if pool is None:
        raise InvalidInput(f"{entry.name!r}: there is no hollow here that would hold water; it runs off")
    return _pond(own, shown, pool, margin, edge, progress)


@dataclass(frozen=True)
class Pool:
    """A hollow with water in it.

    Attributes
    ----------
    level : float
        Metres by the body's own down.
    covered : Flood
        To that level.
    spill : Spill or None
        Where it runs out next.
    runs_out : bool
        Whether it stands lower than was asked for.
    """

    level: float
    covered: Flood
    spill: Spill | None
    runs_out: bool


def poured(body: Body, at: Places, level: float | None = None) -> Pool | None:
    """Water that is poured onto a body at a place of the world.

    Parameters
    ----------
    level : float, optional
        Metres by the body's own down; without it, up to where it first runs out.

    Returns
    -------
    Pool or None
        None where no water stays.
    """
    near = body.nearest(at)
    if near is None:
        return None
    seed = int(body.corners.triangles[near.triangle][int(np.argmax(near.weights))])
    whole = flood(body, seed)
    usual = whole.usual()
    holds = whole.holds - BELOW_RIM
    if level is None:
        if usual is None:
            return None
        level = usual.height - BELOW_RIM
    stands = min(level, holds)
    covered = flood(body, seed, stands)
    if not covered.rows.size:
        return None
    spill = next((spill for spill in whole.spills if spill.height > stands), None)
    return Pool(stands, covered, spill, stands < level)


class _Sheet:
    # what a surface is cut from, about its middle: level, or round about a centre

    def __init__(self, down: Down, height: float, place: Places, triangles: NDArray[np.int32], fine: float) -> None:
        self.down, self.height, self.fine = down, height, fine
        self.middle = place.mean(axis=0)
        self.vertices = VertexTable(place.shape[0])
        self.vertices.set_column("position", self.brought(place - self.middle))
        self.corners = CornerTable.from_triangles(triangles, place.shape[0])

    @property
    def place(self) -> Places:
        return self.vertices["position"].astype(np.float64)

    def brought(self, place: Places) -> Places:
        return np.asarray(on_level(self.down, self.height, place + self.middle) - self.middle)

    def up(self, place: Places) -> Places:
        return self.down.up(place + self.middle, (0.0, 0.0, 0.0))

    def split(self, edges: Mask, share: NDArray[np.floating] | None) -> Places:
        # the places that are new
        count = self.vertices.count
        self.vertices, self.corners, _ = split_edges(self.vertices, self.corners, edges, share)
        fresh = self.brought(self.place[count:])
        self.vertices["position"][count:] = fresh
        return fresh


@dataclass(frozen=True)
class _Looked:
    # of places on a sheet: whether there is water, whether none of the ground of a pond lies below, metres to the ground
    wet: Mask
    away: Mask
    depth: Places

    def with_more(self, other: "_Looked") -> "_Looked":
        return _Looked(
            np.append(self.wet, other.wet), np.append(self.away, other.away), np.append(self.depth, other.depth)
        )


Look = Callable[[Places], _Looked]


def _level_sheet(down: Down, level: float, at: Places, size: float, edge: float) -> _Sheet:
    if down.kind == "centre":
        radius = down.sea + level
        if radius <= 0:
            raise InvalidInput(f"the level is {level:g} m; water around this centre stands above {-down.sea:g} m")
        return _Sheet(down, level, *round_sheet(np.array(down.at), radius, radius / 12), edge or 2 * radius / FINE)
    east, _, north = (way[0] for way in down.frame(at[None], (0.0, 0.0, 0.0)))
    half = np.full(2, size / 2)
    return _Sheet(down, level, *flat_sheet(at, east, north, -half, half, size / COARSE), edge or size / FINE)


def _pond_sheet(body: Body, pool: Pool, margin: float, edge: float) -> _Sheet:
    covered = body.vertices["position"][pool.covered.rows].astype(np.float64)
    middle = covered.mean(axis=0)
    east, _, north = (way[0] for way in body.down.frame(middle[None], body.origin))
    flat = (covered - middle) @ np.stack((east, north), axis=1)
    faces = body.corners.triangles[body.corners.first_corner[pool.covered.rows] // 3]
    wider = margin + float(
        side_lengths(body.vertices["position"], faces).max()
    )  # the shore lies beyond what is covered
    low, high = flat.min(axis=0) - wider, flat.max(axis=0) + wider
    size = float((high - low).max())
    fine = edge or size / FINE
    if body.down.kind == "centre" and size > 1.5 * (body.down.sea + pool.level):
        centre = np.array(body.down.at)
        return _Sheet(body.down, pool.level, *round_sheet(centre, body.down.sea + pool.level, size / COARSE), fine)
    sheet = flat_sheet(body.placed(middle), east, north, low, high, size / COARSE)
    return _Sheet(body.down, pool.level, *sheet, fine)


def _pond(
    body: Body, bodies: tuple[Body, ...], pool: Pool, margin: float, edge: float, progress: Progress
) -> WaterSurface:
    seed = int(pool.covered.rows[0]) if pool.covered.rows.size else -1
    while seed >= 0:
        sheet = _pond_sheet(body, pool, margin, edge)
        inside = body.placed(body.vertices["position"][seed].astype(np.float64))
        found = _cut(sheet, bodies, body, margin, progress, inside)
        if found is not None:
            spill = pool.spill
            if spill is not None:
                spill = replace(spill, at=body.placed(spill.at))
            return replace(found, level=pool.level, spill=spill, runs_out=pool.runs_out)
        # it leaves the body where no border says so: over the rim of a closed one
        over = [spill for spill in pool.covered.spills if spill.height < pool.level]
        if not over:
            break
        stands = over[-1].height - BELOW_RIM
        pool = Pool(stands, flood(body, seed, stands), over[-1], True)
    raise InvalidInput("water does not stay here: it runs out over an edge of the ground")


def _looking(sheet: _Sheet, bodies: tuple[Body, ...], pond: Body | None, progress: Progress) -> Look:
    def look(place: Places) -> _Looked:
        progress.step(0.5, "sounding the ground")
        up = sheet.up(place)
        wet, away = np.ones(place.shape[0], np.bool_), np.zeros(place.shape[0], np.bool_)
        depth = np.full(place.shape[0], DEEPEST)
        for body in bodies if pond is None or pond in bodies else (*bodies, pond):
            state, deep = soundings(body, place + (sheet.middle - np.array(body.origin)), up)
            wet &= state != BURIED
            depth = np.minimum(depth, deep)
            if body is pond:
                away = state == OPEN
        return _Looked(wet & ~away, away, depth)

    return look


def _cut(
    sheet: _Sheet,
    bodies: tuple[Body, ...],
    pond: Body | None,
    margin: float,
    progress: Progress,
    inside: Places | None = None,
) -> WaterSurface | None:
    # a pond is only the water that holds the place `inside`; None where that reaches the open
    look = _looking(sheet, bodies, pond, progress)
    looked = look(sheet.place)
    for _ in range(ROUNDS):
        wet = looked.wet[sheet.corners.triangles]
        wanted = np.asarray(wet.any(axis=1) & ~wet.all(axis=1))
        wanted[wanted] = side_lengths(sheet.place, sheet.corners.triangles[wanted]).max(axis=1) > sheet.fine
        if not wanted.any():
            break
        edges = longest_edges(sheet.vertices, sheet.corners, wanted)
        looked = looked.with_more(look(sheet.split(edges, None)))
    count = sheet.vertices.count
    edges, share, depth, away = _crossings(sheet, looked, look)
    fresh = sheet.split(edges, share)
    looked = looked.with_more(_Looked(np.zeros(len(fresh), np.bool_), away, depth))
    triangles = sheet.corners.triangles
    on = np.arange(sheet.vertices.count) >= count
    water = np.asarray((looked.wet | on)[triangles].all(axis=1))
    between = np.flatnonzero(all_of(on, triangles))
    water[between] = look(sheet.place[triangles[between]].mean(axis=1)).wet
    land = ~water
    if inside is not None:
        water = _held_together(sheet, water, inside)
        if looked.away[triangles[water]].any():
            return None
    return _measured(sheet, water, land, looked, margin)


def _crossings(sheet: _Sheet, looked: _Looked, look: Look) -> tuple[Mask, Places, Places, Mask]:
    # (M, 3) edges that a shore crosses, and where from the end of the lower number; in the order in which their vertices
    # will be made: how deep water is there, and whether a pond runs out
    triangles = sheet.corners.triangles
    tail, tip = triangles[:, (1, 2, 0)], triangles[:, (2, 0, 1)]
    crossed = looked.wet[tail] != looked.wet[tip]
    low, high = np.minimum(tail, tip)[crossed].astype(np.int64), np.maximum(tail, tip)[crossed].astype(np.int64)
    key, first, back = np.unique(low * sheet.vertices.count + high, return_index=True, return_inverse=True)
    low, high = low[first], high[first]
    place, low_wet = sheet.place, looked.wet[low]
    a, b = np.zeros(key.size), np.ones(key.size)
    depth = np.where(low_wet, looked.depth[low], looked.depth[high])
    away = np.where(low_wet, looked.away[high], looked.away[low])
    for _ in range(HALVINGS):
        t = (a + b) / 2
        found = look(sheet.brought(place[low] + t[:, None] * (place[high] - place[low])))
        depth = np.where(found.wet, found.depth, depth)
        away = np.where(found.wet, away, found.away)
        ahead = found.wet == low_wet
        a, b = np.where(ahead, t, a), np.where(ahead, b, t)
    share = np.full(crossed.shape, 0.5)
    share[crossed] = np.clip((a + b) / 2, 1e-4, 1 - 1e-4)[back.reshape(-1)]
    return crossed, share, depth, away


def _held_together(sheet: _Sheet, water: Mask, inside: Places) -> Mask:
    # the triangles of water that hang together with the one nearest to a place
    across = sheet.corners.opposite.reshape(-1, 3)
    slot, corner = np.nonzero(water[:, None] & (across >= 0))
    other = across[slot, corner] // 3
    both = water[other]
    _, label = hanging_together(slot[both], other[both], water.size)
    where = np.flatnonzero(water)
    if not where.size:
        return water
    middle = sheet.place[sheet.corners.triangles[where]].mean(axis=1)
    target = sheet.brought((inside - sheet.middle)[None])[0]
    near = where[int(np.argmin(((middle - target) ** 2).sum(axis=1)))]
    return np.asarray(water & (label == label[near]))


def _measured(sheet: _Sheet, water: Mask, land: Mask, looked: _Looked, margin: float) -> WaterSurface:
    triangles, place = sheet.corners.triangles, sheet.place
    ends = shore_edges(sheet.corners, water)
    away = shore_distance(place, place[ends], DEEPEST)
    shore = np.zeros(place.shape[0], np.bool_)
    shore[ends.reshape(-1)] = True
    wet = np.zeros(place.shape[0], np.bool_)
    wet[triangles[water].reshape(-1)] = True
    beyond = land & (any_of(shore, triangles) | (away[triangles] <= margin).all(axis=1))
    kept = triangles[water | beyond]
    rows = np.unique(kept)
    number_ = np.zeros(place.shape[0], np.int32)
    number_[rows] = np.arange(rows.size, dtype=np.int32)
    area = triangle_areas(place[triangles[water]])
    depth = np.where(wet, looked.depth, 0.0)
    column = depth[triangles[water]]
    over = (column < DEEPEST).all(axis=1)
    signed = np.where(shore, 0.0, np.where(wet, away, -away))
    return WaterSurface(
        place[rows] + sheet.middle,
        np.broadcast_to(sheet.up(place[rows]), (rows.size, 3)).astype(np.float32),
        number_[kept],
        depth[rows].astype(np.float32),
        signed[rows].astype(np.float32),
        sheet.height,
        float(area.sum()),
        float((area * column.mean(axis=1))[over].sum()),
        float(depth[depth < DEEPEST].max(initial=0.0)),
        float(np.linalg.norm(place[ends[:, 0]] - place[ends[:, 1]], axis=1).sum()),
    )
