"""What the hand does to chosen vertices, edges and faces without changing who is joined with whom."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand.choice import DOMAINS, Mask, as_domain, chosen
from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, RowsDelta
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import FORM, REST
from hulmo.core.mesh.ring_means import ring_means
from hulmo.core.progress import Progress
from hulmo.core.project import Project

Triple = tuple[float, float, float]
Vector = NDArray[np.float64]
Rows = NDArray[np.int32]

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
