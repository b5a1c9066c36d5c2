"""What the hand does to chosen vertices, edges and faces without changing who is joined with whom."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand.choice import DOMAINS, Mask, as_domain, chosen
from hulmo.core.by_hand.soft import FALLOFFS, soft_reach
from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, RowsDelta, SlotColumnDelta
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.chosen_parts import CREASE, FLAT, ONE_GROUND
from hulmo.core.mesh.graph import hanging_together
from hulmo.core.mesh.layer import FORM, REST
from hulmo.core.mesh.ring_means import ring_means
from hulmo.core.objects.scene_object import turn_matrix
from hulmo.core.progress import Progress
from hulmo.core.project import Project

Triple = tuple[float, float, float]
Vector = NDArray[np.float64]
Rows = NDArray[np.int32]

ABOUT = ("middle", "place", "each")
FRAMES = ("world", "normal")

INTO = ("plane", "level", "upright", "circle", "smooth")


def chosen_of(project: Project, name: str, domain: str, where: str) -> tuple[Body, Mask]:
    """A body and what is chosen of it.

    Raises
    ------
    InvalidInput
        No such body or domain, or nothing is chosen.
    """
    body = project.body_named(name, where)
    if domain not in DOMAINS:
        raise InvalidInput(f"{where}: domain is {shown(domain)}; it must be one of {', '.join(DOMAINS)}")
    mask = chosen(body, domain)
    if not mask.any():
        raise InvalidInput(f"{where}: no {domain} of {body.name!r} is chosen; choose some first")
    return body, mask


def moved_rows(body: Body, rows: Rows, step: Vector, layer: str, label: str, where: str) -> Edit:
    """The edit after which some rows have moved by (K, 3) metres in the layer in work, as far as guard and locks let them.

    Raises
    ------
    InvalidInput
        A locked or hidden layer.
    """
    free, held = body.free_share(rows), body.held(rows)
    if free is not None:
        step = step * free[:, None]
    if held is not None:
        step = np.where(held[:, None], 0.0, step)
    column = "position"
    if body.layers:
        column = REST
        if layer != FORM:
            found = body.layer_named(layer, where)
            if found.locked or found.share == 0:
                raise InvalidInput(
                    f"{where}: the relief layer {layer!r} is locked or has no strength; choose another one"
                )
            column, step = found.column, step / found.share
    before = np.take(body.vertices[column], rows, axis=0)
    after = (before + step).astype(np.float32)
    changed = (after != before).any(axis=1)
    if not changed.any():
        return Edit(label, ())
    return Edit(label, (RowsDelta(body.ident, column, rows[changed], before[changed], after[changed]),))


class MoveChosen(Command, frozen=True, tag="move_chosen"):
    """Move, turn and scale what is chosen.

    Attributes
    ----------
    body : str
    domain : str
        vertex, edge or face: what of the body's choice is meant.
    move : [x, y, z]
        Metres.
    turn : [x, y, z]
        Degrees about X, then Y, then Z.
    scale : [x, y, z]
        Factors.
    about : str
        middle: of what is chosen. place: the point `at`. each: every part that hangs together about its own middle.
    at : [x, y, z]
        Metres.
    frame : str
        world, or normal: Y is the mean normal of what is chosen, X level.
    reach : float
        Metres from what is chosen at which nothing goes along any more; 0: only what is chosen moves.
    over : str
        surface or space: how the reach is measured.
    falloff : str
        smooth, dome, sharp or linear.
    layer : str
        Relief layer that is worked on; empty: the form.
    """

    body: str
    domain: str = "vertex"
    move: Triple = (0.0, 0.0, 0.0)
    turn: Triple = (0.0, 0.0, 0.0)
    scale: Triple = (1.0, 1.0, 1.0)
    about: str = "middle"
    at: Triple = (0.0, 0.0, 0.0)
    frame: str = "world"
    reach: float = 0.0
    over: str = "surface"
    falloff: str = "smooth"
    layer: str = FORM

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "move_chosen"
        body, mask = chosen_of(project, self.body, self.domain, where)
        for name, value, known in (
            ("about", self.about, ABOUT), ("frame", self.frame, FRAMES), ("over", self.over, ("surface", "space")),
            ("falloff", self.falloff, FALLOFFS),
        ):  # fmt: skip
            if value not in known:
                raise InvalidInput(f"{where}: {name} is {shown(value)}; it must be one of {', '.join(known)}")
        numbers = (*self.move, *self.turn, *self.scale, *self.at, self.reach)
        if not np.isfinite(numbers).all() or max(map(abs, numbers)) > 1e7 or self.reach < 0:
            raise InvalidInput(f"{where}: give finite numbers, 10,000,000 at the most; reach is not below 0")
        vertices = as_domain(body, mask, self.domain, "vertex")
        rows, share = soft_reach(body, vertices, self.reach, self.over, self.falloff)
        place = np.take(body.vertices["position"], rows, axis=0).astype(np.float64)
        frame = np.eye(3) if self.frame == "world" else frame_of(body, vertices)
        matrix = frame @ turn_matrix(self.turn) @ np.diag(self.scale) @ frame.T
        middle = self._middles(body, vertices, rows)
        step = (place - middle) @ matrix.T + middle - place + frame @ np.array(self.move)
        step *= share[:, None]
        words = {"move": self.move != (0, 0, 0), "turn": self.turn != (0, 0, 0), "scale": self.scale != (1, 1, 1)}
        label = " and ".join(word for word, there in words.items() if there) or "move"
        return moved_rows(body, rows, step, self.layer, f"{label.capitalize()} {body.name}", where)

    def _middles(self, body: Body, vertices: Mask, rows: Rows) -> Vector:
        if self.about == "place":
            return np.asarray(body.own(np.array(self.at)))
        if self.about == "middle":
            there = np.flatnonzero(vertices)
            return middle_of(np.take(body.vertices["position"], there, axis=0).astype(np.float64))
        position = body.vertices["position"].astype(np.float64)
        triangles = body.corners.live_triangles()
        whole = vertices[triangles]
        pairs = [triangles[whole[:, i] & whole[:, j]][:, (i, j)] for i, j in ((0, 1), (1, 2), (2, 0))]
        joined = np.concatenate(pairs)
        _, label = hanging_together(joined[:, 0], joined[:, 1], position.shape[0])
        out = np.zeros((rows.size, 3))
        parts = label[rows]
        for part in np.unique(label[vertices]):
            out[parts == part] = middle_of(position[vertices & (label == part)])
        return out


def middle_of(position: Vector) -> Vector:
    """(3,) middle of the box around (K, 3) places."""
    return np.asarray((position.min(axis=0) + position.max(axis=0)) / 2)


def frame_of(body: Body, vertices: Mask) -> Vector:
    """(3, 3) columns: a level X, the mean normal as Y, and what is square to both."""
    up = body.vertices["normal"][vertices].astype(np.float64).sum(axis=0)
    length = float(np.linalg.norm(up))
    up = up / length if length > 1e-9 else np.array([0.0, 1.0, 0.0])
    side = np.cross(np.array([0.0, 1.0, 0.0]), up)
    side = side / np.linalg.norm(side) if np.linalg.norm(side) > 1e-6 else np.array([1.0, 0.0, 0.0])
    return np.stack((side, up, np.cross(side, up)), axis=1)


class JitterChosen(Command, frozen=True, tag="jitter_chosen"):
    """Move every chosen vertex by chance, or turn every chosen face about its middle.

    Attributes
    ----------
    body, domain : str
        vertex or edge: vertices move any way. face: each face is turned, and its corners go to the mean of where their faces
        would have them.
    amount : float
        Metres at the most; of faces, degrees.
    seed : int
    layer : str
    """

    body: str
    domain: str = "vertex"
    amount: float = 0.1
    seed: int = 1
    layer: str = FORM

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "jitter_chosen"
        body, mask = chosen_of(project, self.body, self.domain, where)
        if not 0 <= self.amount <= 1e6 or self.seed < 0:
            raise InvalidInput(f"{where}: amount must lie between 0 and 1,000,000, and seed not be negative")
        rng = np.random.default_rng(self.seed)
        position = body.vertices["position"].astype(np.float64)
        if self.domain != "face":
            rows = np.flatnonzero(as_domain(body, mask, self.domain, "vertex")).astype(np.int32)
            way = rng.normal(size=(rows.size, 3))
            way /= np.linalg.norm(way, axis=1, keepdims=True)
            step = way * (self.amount * rng.random(rows.size) ** (1 / 3))[:, None]
        else:
            triangles = body.corners.triangles[mask]
            middle = position[triangles].mean(axis=1)
            axis = rng.normal(size=(triangles.shape[0], 3))
            axis /= np.linalg.norm(axis, axis=1, keepdims=True)
            angle = np.radians(self.amount) * rng.uniform(-1, 1, triangles.shape[0])
            arm = position[triangles] - middle[:, None]
            turned = (  # Rodrigues
                arm * np.cos(angle)[:, None, None]
                + np.cross(axis[:, None], arm) * np.sin(angle)[:, None, None]
                + axis[:, None] * (np.einsum("mki,mi->mk", arm, axis) * (1 - np.cos(angle))[:, None])[..., None]
            )
            total, count = np.zeros_like(position), np.zeros(position.shape[0])
            np.add.at(total, triangles, turned - arm)
            np.add.at(count, triangles, 1.0)
            rows = np.flatnonzero(count).astype(np.int32)
            step = total[rows] / count[rows, None]
        return moved_rows(body, rows, step, self.layer, f"Jitter {body.name}", where)


class EvenChosen(Command, frozen=True, tag="even_chosen"):
    """Bring what is chosen into a simple shape.

    Attributes
    ----------
    body, domain : str
    into : str
        plane: the one nearest to all. level: a level plane through the middle. upright: the upright plane nearest to all.
        circle: a circle in the nearest plane, each vertex keeping its bearing. smooth: toward the middle of neighbours.
    amount : float
        Share of the way, 0 to 1.
    layer : str
    """

    body: str
    domain: str = "vertex"
    into: str = "plane"
    amount: float = 1.0
    layer: str = FORM

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "even_chosen"
        body, mask = chosen_of(project, self.body, self.domain, where)
        if self.into not in INTO:
            raise InvalidInput(f"{where}: into is {shown(self.into)}; it must be one of {', '.join(INTO)}")
        if not 0 <= self.amount <= 1:
            raise InvalidInput(f"{where}: amount is {self.amount:g}; it must lie between 0 and 1")
        rows = np.flatnonzero(as_domain(body, mask, self.domain, "vertex")).astype(np.int32)
        place: Vector = np.take(body.vertices["position"], rows, axis=0).astype(np.float64)
        if self.into == "smooth":
            share = np.full(rows.size, self.amount, np.float32)
            normal = body.vertices["normal"]
            smoothed = ring_means(body.vertices["position"], body.corners, rows, share, normal, along=False).astype(
                np.float64
            )
            return moved_rows(body, rows, smoothed - place, self.layer, f"Relax {body.name}", where)
        middle = place.mean(axis=0)
        up = body.up(middle[None])[0]
        plane = _fitted(place - middle, up, self.into)
        step = -((place - middle) @ plane)[:, None] * plane
        if self.into == "circle":
            flat = place + step - middle
            radius = np.linalg.norm(flat, axis=1)
            if not radius.max() > 0:
                raise InvalidInput(f"{where}: what is chosen lies in one place; choose a ring of vertices")
            unit = flat / np.maximum(radius, 1e-30)[:, None]
            step += unit * radius.mean() - flat
        return moved_rows(body, rows, step * self.amount, self.layer, f"Even out {body.name}", where)


def _fitted(place: Vector, up: Vector, into: str) -> Vector:
    # (3,) normal of the plane through zero
    if into == "level":
        return up
    if into == "upright":
        level = place - (place @ up)[:, None] * up
        _, _, axes = np.linalg.svd(level, full_matrices=False)
        along = axes[0] if place.shape[0] > 1 else np.array([1.0, 0.0, 0.0])
        normal = np.cross(up, along)
        return np.asarray(normal / max(float(np.linalg.norm(normal)), 1e-30))
    if place.shape[0] < 3:
        return up
    _, _, axes = np.linalg.svd(place, full_matrices=False)
    return np.asarray(axes[2])


class SetFacets(Command, frozen=True, tag="set_facets"):
    """Have chosen faces drawn flat, each with its own normal, or smooth again.

    Attributes
    ----------
    body : str
    flat : bool
    every : bool
        All faces, whether they are chosen or not.
    """

    body: str
    flat: bool = True
    every: bool = False

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "set_facets")
        mask = np.ones(body.corners.count, np.bool_)
        if not self.every:
            body, mask = chosen_of(project, self.body, "face", "set_facets")
        old = body.corners.slots.get(FLAT)
        new = np.zeros((body.corners.count, 1, 1), np.float32) if old is None else old.copy()
        new[mask] = float(self.flat)
        label = f"{'Flat' if self.flat else 'Smooth'} faces"
        if old is not None and np.array_equal(old, new):
            return Edit(label, ())
        after = new if new.any() else None
        if old is None and after is None:
            return Edit(label, ())
        return Edit(label, (SlotColumnDelta(body.ident, "face", FLAT, None if old is None else old.copy(), after),))


class LayOnFaces(Command, frozen=True, tag="lay_on_faces"):
    """Have one ground alone lie on the chosen faces, with no blend over their rim; or give them back to their vertices.

    Attributes
    ----------
    body : str
    ground : str
        Empty: what the vertices say.
    """

    body: str
    ground: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body, mask = chosen_of(project, self.body, "face", "lay_on_faces")
        value = 1 + project.ground_named(self.ground, "lay_on_faces") if self.ground else 0
        if value and project.grounds[value - 1].locked:
            raise InvalidInput(f"lay_on_faces: the ground {self.ground!r} is locked; unlock it first")
        unguarded_faces(body, mask, "lay_on_faces")
        old = body.corners.slots.get(ONE_GROUND)
        new = np.zeros((body.corners.count, 1, 1), np.float32) if old is None else old.copy()
        new[mask] = value
        label = f"Lay {self.ground} on faces" if self.ground else "Give faces back"
        if old is not None and np.array_equal(old, new):
            return Edit(label, ())
        after = new if new.any() else None
        if old is None and after is None:
            return Edit(label, ())
        before = None if old is None else old.copy()
        return Edit(label, (SlotColumnDelta(body.ident, "face", ONE_GROUND, before, after),))


def unguarded_faces(body: Body, mask: Mask, where: str) -> None:
    """Refuse to paint faces that have a guarded corner.

    Raises
    ------
    InvalidInput
    """
    if GUARD in body.vertices and bool((body.vertices[GUARD][body.corners.triangles[mask], 0] > 0).any()):
        raise InvalidInput(f"{where}: part of what is chosen is guarded; clear the guard there, or choose less")


class SetCrease(Command, frozen=True, tag="set_crease"):
    """Have chosen edges stay sharp where the body is divided smoothly, and hold their line where it is remeshed.

    Attributes
    ----------
    body : str
    amount : float
        0 takes the crease away.
    """

    body: str
    amount: float = 1.0

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body, mask = chosen_of(project, self.body, "edge", "set_crease")
        if not 0 <= self.amount <= 1:
            raise InvalidInput(f"set_crease: amount is {self.amount:g}; it must lie between 0 and 1")
        old = body.corners.slots.get(CREASE)
        new = np.zeros((body.corners.count, 3, 1), np.float32) if old is None else old.copy()
        new[mask] = self.amount
        after = new if new.any() else None
        if old is None and after is None:
            return Edit("Crease", ())
        return Edit(
            "Crease", (SlotColumnDelta(body.ident, "edge", CREASE, None if old is None else old.copy(), after),)
        )
