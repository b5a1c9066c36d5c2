"""Choose vertices, edges or faces for work by hand."""

import itertools

import numpy as np

from hulmo.core.by_hand import find
from hulmo.core.by_hand.choice import (
    DOMAINS,
    Mask,
    as_domain,
    both_sides,
    choice_deltas,
    chosen,
    column_deltas,
    live,
)
from hulmo.core.by_hand.kept import kept_choice, kept_column
from hulmo.core.commands.command import Command
from hulmo.core.commands.laid_uv import laid_in, whole_charts
from hulmo.core.commands.objects import object_named
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import FLAT
from hulmo.core.mesh.corner_table import REGION
from hulmo.core.mesh.edge_ways import edge_path
from hulmo.core.objects.line import column_of, is_line
from hulmo.core.progress import Progress
from hulmo.core.project import Project

BY = (
    "these", "all", "none", "invert", "grow", "shrink", "border", "ring", "part", "facing", "slope", "height", "size",
    "sharp", "rim", "random", "loop", "as", "path", "line", "ground", "flat", "region", "region_rim", "named", "chart",
)  # fmt: skip

WAYS = ("set", "add", "take")

WORDS = {"vertex": "vertices", "edge": "edges", "face": "faces"}

MOST_STEPS = 1000


class ChooseParts(Command, frozen=True, tag="choose_parts"):
    """Choose vertices, edges or faces of a body; nothing is moved.

    Attributes
    ----------
    body : str
    domain : str
        vertex, edge or face.
    by : str
        these: those named in `these`. all, none, invert. grow, shrink: by `steps` rings. border: what lies at one. ring: the
        faces `steps` rings in from a border. part: all that hangs together with what is chosen. facing: faces within `high`
        degrees of `toward`. slope: faces between `low` and `high` degrees. height: vertices between two heights, metres.
        size: edges between two lengths, metres. sharp: edges that bend by `low` degrees or more. rim: edges around the
        chosen faces. random: about `share` of what is chosen. loop: the edges that go on straight from the first of `these`.
        as: what is chosen in the domain `source`. path: the shortest way along edges through the vertices in `these`.
        line: what lies inside the outline or track `name`; of edges, those that were cut along it. ground: vertices at which
        the ground `name` has `share` or more. flat: faces drawn flat. region: faces of the region number `steps`.
        region_rim: edges between regions. named: what was kept under `name`. chart: faces of the charts, in the set of UV
        `name`, that the faces in `these` lie in.
    way : str
        set, add or take.
    these : list of int
        Vertices and faces by number; edges by two vertices each, one after the other.
    steps : int
    low, high : float
    toward : [x, y, z]
    share : float
        0 to 1.
    seed : int
    source : str
        Another domain.
    name : str
        Of a line, a ground, or a choice that was kept.
    """

    body: str
    domain: str = "face"
    by: str = "these"
    way: str = "set"
    these: tuple[int, ...] = ()
    steps: int = 1
    low: float = 0.0
    high: float = 180.0
    toward: tuple[float, float, float] = (0.0, 1.0, 0.0)
    share: float = 0.5
    seed: int = 1
    source: str = ""
    name: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "choose_parts")
        for name, value, known in (("domain", self.domain, DOMAINS), ("by", self.by, BY), ("way", self.way, WAYS)):
            if value not in known:
                raise InvalidInput(f"choose_parts: {name} is {shown(value)}; it must be one of {', '.join(known)}")
        if not 1 <= self.steps <= MOST_STEPS:
            raise InvalidInput(f"choose_parts: steps is {self.steps}; it must lie between 1 and {MOST_STEPS}")
        if not np.isfinite([self.low, self.high, self.share, *self.toward]).all() or not 0 <= self.share <= 1:
            raise InvalidInput("choose_parts: limits must be finite numbers, and share lie between 0 and 1")
        if self.seed < 0:
            raise InvalidInput("choose_parts: seed must not be negative")
        now = chosen(body, self.domain)
        found = self._found(project, body, now)
        if self.by in ("invert", "grow", "shrink", "part", "random") or self.way == "set":
            after = found
        else:
            after = now | found if self.way == "add" else now & ~found
        return Edit(f"Choose {WORDS[self.domain]}", choice_deltas(body, self.domain, after))

    def _found(self, project: Project, body: Body, now: Mask) -> Mask:
        domain, by = self.domain, self.by
        if by == "none":
            return np.zeros_like(now)
        if by in ("all", "invert"):
            every = find.everything(body, domain)
            return every if by == "all" else np.asarray(every & ~now)
        if by in ("grow", "shrink"):
            for _ in range(self.steps):
                now = find.grown(body, now, domain) if by == "grow" else find.shrunk(body, now, domain)
            return now
        if by == "random":
            return find.random_share(now, body.corners.opposite, domain, self.share, self.seed)
        if by == "these":
            return self._these(body)
        if by == "border":
            return find.border(body, domain)
        if by == "named":
            return kept_choice(body, domain, self.name)
        found: tuple[str, Mask]
        if by == "ring":
            found = ("face", find.ring(body, self.steps))
        elif by == "part":
            return find.connected(body, now, domain)
        elif by == "path":
            found = ("edge", self._path(body))
        elif by == "line":
            entry = object_named(project, self.name, "choose_parts")
            if not is_line(entry):
                raise InvalidInput(f"choose_parts: {self.name!r} is neither an outline nor a track")
            found = find.cut_of(body, entry.ident) if domain == "edge" else find.inside_of(body, column_of(entry))
        elif by == "ground":
            weight = weights_of(body, len(project.grounds))[:, project.ground_named(self.name, "choose_parts")]
            found = ("vertex", np.asarray((weight >= self.share) & (body.corners.first_corner >= 0)))
        elif by == "flat":
            found = ("face", find.by_face(body, FLAT, 1.0))
        elif by == "region":
            found = ("face", find.by_face(body, REGION, float(self.steps)))
        elif by == "chart":
            found = ("face", self._charts(body))
        elif by == "region_rim":
            found = ("edge", find.region_rim(body))
        elif by == "facing":
            if not any(self.toward):
                raise InvalidInput("choose_parts: toward has no direction; give it three numbers, not all of them 0")
            found = ("face", find.by_angle(body, np.array(self.toward), self.high))
        elif by == "slope":
            found = ("face", find.by_slope(body, self.low, self.high))
        elif by == "height":
            found = ("vertex", find.by_height(body, self.low, self.high))
        elif by == "size":
            found = ("edge", find.by_size(body, self.low, self.high))
        elif by == "sharp":
            found = ("edge", find.sharp(body, self.low))
        elif by == "rim":
            found = ("edge", find.rim(body, chosen(body, "face")))
        elif by == "loop":
            if len(self.these) < 2:
                raise InvalidInput("choose_parts: a loop begins with an edge; name the two vertices at its ends")
            edge = np.flatnonzero(_edges(body, self.these[:2]).reshape(-1))
            found = ("edge", find.loop(body, int(edge[0])))
        else:
            if self.source not in DOMAINS:
                raise InvalidInput(
                    f"choose_parts: source is {shown(self.source)}; it must be one of {', '.join(DOMAINS)}"
                )
            found = (self.source, chosen(body, self.source))
        return as_domain(body, found[1], found[0], domain)

    def _charts(self, body: Body) -> Mask:
        laid = laid_in(body, self.name, "choose_parts")
        these = _numbers(self.these, body.corners.count, f"{body.name!r} has no face")
        out = np.zeros(body.corners.count, np.bool_)
        out[whole_charts(laid, these)] = True
        return out

    def _path(self, body: Body) -> Mask:
        rows = _numbers(self.these, body.vertices.count, f"{body.name!r} has no vertex")
        if rows.size < 2 or (body.corners.first_corner[rows] < 0).any():
            raise InvalidInput("choose_parts: a path needs two vertices or more, each of them on the body")
        ends: list[int] = []
        for a, b in itertools.pairwise(rows.tolist()):
            way = edge_path(body, a, b)
            if not way.size:
                raise InvalidInput(
                    "choose_parts: the vertices do not hang together, so no path leads from one to the next"
                )
            ends += [row for pair in itertools.pairwise(way.tolist()) for row in pair]
        return _edges(body, tuple(ends))

    def _these(self, body: Body) -> Mask:
        if self.domain == "edge":
            return _edges(body, self.these)
        there = find.everything(body, self.domain)
        out = np.zeros_like(there)
        numbers = _numbers(self.these, there.size, f"{body.name!r} has no {self.domain}")
        if not there[numbers].all():
            raise InvalidInput(f"choose_parts: {body.name!r} has no {self.domain} {int(numbers[~there[numbers]][0])}")
        out[numbers] = True
        return out


class KeepChoice(Command, frozen=True, tag="keep_choice"):
    """Keep what is chosen under a name; with nothing chosen, forget what was kept under it.

    Attributes
    ----------
    body, domain : str
    name : str
    """

    body: str
    domain: str
    name: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "keep_choice"
        body = project.body_named(self.body, where)
        if self.domain not in DOMAINS:
            raise InvalidInput(f"{where}: domain is {shown(self.domain)}; it must be one of {', '.join(DOMAINS)}")
        if not self.name.strip() or "/" in self.name or len(self.name) > 80:
            raise InvalidInput(f"{where}: {shown(self.name)} is no name for a choice; give it 1 to 80 letters, no /")
        mask = chosen(body, self.domain)
        column = kept_column(self.domain, self.name)
        if not mask.any() and column not in (body.vertices if self.domain == "vertex" else body.corners.slots):
            raise InvalidInput(f"{where}: no {self.domain} of {body.name!r} is chosen; choose some first")
        return Edit(f"Keep {self.name}", column_deltas(body, self.domain, column, mask))


def _numbers(these: tuple[int, ...], count: int, words: str) -> np.ndarray:
    wrong = next((number for number in these if not 0 <= number < count), None)
    if wrong is not None:
        raise InvalidInput(f"choose_parts: {words} {shown(wrong)}")
    return np.array(these, np.int64).reshape(-1)


def _edges(body: Body, these: tuple[int, ...]) -> Mask:
    corners, count = body.corners, body.vertices.count
    rows = _numbers(these, count, f"{body.name!r} has no vertex")
    if rows.size % 2:
        raise InvalidInput("choose_parts: edges are named by two vertices each; one is left over")
    wanted = np.sort(rows.reshape(-1, 2), axis=1)
    tail, tip = corners.triangles[:, (1, 2, 0)].astype(np.int64), corners.triangles[:, (2, 0, 1)].astype(np.int64)
    key = np.minimum(tail, tip) * count + np.maximum(tail, tip)
    asked = wanted[:, 0] * count + wanted[:, 1]
    out = np.isin(key, asked) & live(corners)[:, None]
    missing = np.flatnonzero(~np.isin(asked, key[out]))
    if missing.size:
        a, b = wanted[missing[0]].tolist()
        raise InvalidInput(f"choose_parts: no edge of {body.name!r} joins the vertices {a} and {b}")
    return both_sides(corners, out)
