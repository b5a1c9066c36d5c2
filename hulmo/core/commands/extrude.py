"""Faces pulled out, drawn in, capped."""

import numpy as np

from hulmo.core.by_hand.choice import Mask, as_domain
from hulmo.core.commands.by_hand import chosen_of
from hulmo.core.commands.command import Command
from hulmo.core.commands.made_by_hand import FARTHEST, Triple, Vector, begun, choosing, finite, tables_edit, unguarded
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.ground.weights import HAND, WEIGHT
from hulmo.core.mesh.chosen_parts import FLAT, ONE_GROUND
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.sides import unit_normals
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.topology.extrude import extrude, inward

ALONGS = ("mean", "own", "axis")


class Extrude(Command, frozen=True, tag="extrude"):
    """Pull the chosen faces out, with walls around them; they stay chosen.

    Attributes
    ----------
    body : str
    distance : float
        Metres; below 0 inward.
    along : str
        mean: all along the mean normal. own: each vertex along its own. axis: along `toward`.
    toward : [x, y, z]
    lip : float
        Metres by which the rim goes outward first, with a band of faces of its own: a cap with a lip.
    """

    body: str
    distance: float = 1.0
    along: str = "mean"
    toward: Triple = (0.0, 1.0, 0.0)
    lip: float = 0.0

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "extrude"
        body, mask = chosen_of(project, self.body, "face", where)
        finite(where, distance=self.distance, lip=self.lip)
        if self.distance == 0 and self.lip == 0:
            raise InvalidInput(f"{where}: distance and lip are both 0; nothing would be pulled anywhere")
        if self.along not in ALONGS:
            raise InvalidInput(f"{where}: along is {shown(self.along)}; it must be one of {', '.join(ALONGS)}")
        unguarded(body, as_domain(body, mask, "face", "vertex"), where)
        if bool(mask[body.corners.triangles[:, 0] >= 0].all()) and not body.corners.border_corners().size:
            raise InvalidInput(
                f"{where}: all of {body.name!r} is chosen, so there is nothing to pull it from; choose less"
            )
        vertices, corners, (faces,) = begun(body, (mask, "face"))
        way = _way(vertices, corners, faces, self.along, self.toward, where)
        if self.lip:
            vertices, corners, faces = extrude(vertices, corners, faces, inward(vertices, corners, faces, -self.lip))
            way = _way(vertices, corners, faces, self.along, self.toward, where)
        if self.distance:
            vertices, corners, faces = extrude(vertices, corners, faces, way * self.distance)
        return tables_edit(f"Extrude {body.name}", body, choosing(vertices, corners, faces))


def _way(vertices: VertexTable, corners: CornerTable, faces: Mask, along: str, toward: Triple, where: str) -> Vector:
    position, triangles = vertices["position"].astype(np.float64), corners.triangles
    out = np.zeros_like(position)
    a, b, c = (position[triangles[faces][:, k]] for k in range(3))
    normal = np.cross(b - a, c - a)
    if along == "axis":
        if not np.isfinite(toward).all() or not any(toward):
            raise InvalidInput(f"{where}: toward has no direction; give it three finite numbers, not all of them 0")
        out[:] = np.array(toward) / np.linalg.norm(toward)
        return out
    if along == "mean":
        total = normal.sum(axis=0)
        length = float(np.linalg.norm(total))
        if not length > 1e-9 * float(np.linalg.norm(normal, axis=1).sum()):
            raise InvalidInput(f"{where}: the chosen faces look every way, without a mean; pull along own normals")
        out[:] = total / length
        return out
    for k in range(3):
        np.add.at(out, triangles[faces][:, k], normal)
    return np.asarray(out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-300))


class Inset(Command, frozen=True, tag="inset"):
    """Draw the rim of the chosen faces inward, with a band of faces around them; they stay chosen.

    Attributes
    ----------
    body : str
    distance : float
        Metres; below 0 outward.
    """

    body: str
    distance: float = 0.2

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body, mask = chosen_of(project, self.body, "face", "inset")
        finite("inset", distance=self.distance)
        if self.distance == 0:
            raise InvalidInput("inset: distance is 0; give it some metres")
        unguarded(body, as_domain(body, mask, "face", "vertex"), "inset")
        vertices, corners, (faces,) = begun(body, (mask, "face"))
        tables = extrude(vertices, corners, faces, inward(vertices, corners, faces, self.distance))
        return tables_edit(f"Inset {body.name}", body, choosing(*tables))


class Cap(Command, frozen=True, tag="cap"):
    """Give all that faces up a cap: a lip outward, a thickness upward, a ground, smooth faces on top and flat walls.

    Attributes
    ----------
    body : str
    angle : float
        Degrees from straight up within which a face counts as facing up.
    lip, thick : float
        Metres outward and upward.
    ground : str
        Of the cap; empty leaves what lies there.
    flat_walls : bool
        Whether all other faces are drawn flat.
    above : float
        Metres of height under which nothing counts as facing up.
    """

    body: str
    angle: float = 40.0
    lip: float = 0.3
    thick: float = 0.4
    ground: str = ""
    flat_walls: bool = True
    above: float = -FARTHEST

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "cap")
        finite("cap", lip=self.lip, thick=self.thick, above=self.above)
        if not 0 < self.angle < 90 or self.lip < 0 or not self.thick > 0:
            raise InvalidInput(
                "cap: angle must lie between 0 and 90 degrees, lip not be below 0, thick be larger than 0"
            )
        column = project.ground_named(self.ground, "cap") if self.ground else -1
        triangles = body.corners.triangles
        middle = body.vertices["position"][triangles].mean(axis=1)
        normal = unit_normals(body.vertices["position"], triangles)
        up = (normal * body.up(middle)).sum(axis=1) >= np.cos(np.radians(self.angle))
        up &= (triangles[:, 0] >= 0) & (body.heights(middle) >= self.above)
        if not up.any():
            raise InvalidInput(
                f"cap: nothing of {body.name!r} faces up within {self.angle:g} degrees; allow a larger angle"
            )
        if up[triangles[:, 0] >= 0].all():
            raise InvalidInput(f"cap: all of {body.name!r} faces up; there would be no wall under the cap")
        unguarded(body, as_domain(body, up, "face", "vertex"), "cap")
        vertices, corners, (faces,) = begun(body, (up, "face"))
        top = faces
        if self.lip:
            vertices, corners, top = extrude(vertices, corners, top, inward(vertices, corners, top, -self.lip))
        own = np.broadcast_to(body.up(vertices["position"]), (vertices.count, 3))
        vertices, corners, top = extrude(vertices, corners, top, own * self.thick)
        # the cap: its top, and the walls and band that were made, which lie behind the old triangles
        cap = top.copy()
        cap[faces.size :] = True
        if column >= 0:
            lay_on(vertices, corners, cap, column)
            one = (
                np.zeros(corners.count, np.float32)
                if ONE_GROUND not in corners.slots
                else corners.slots[ONE_GROUND][:, 0, 0]
            )
            corners.slots.set("face", ONE_GROUND, np.where(cap, column + 1.0, one)[:, None, None])
        if self.flat_walls:
            corners.slots.set("face", FLAT, (~top).astype(np.float32)[:, None, None])
        return tables_edit(f"Cap {body.name}", body, choosing(vertices, corners, top))


def lay_on(vertices: VertexTable, corners: CornerTable, faces: Mask, column: int) -> None:
    """Lay a ground by hand on all vertices of faces that belong to them alone, in tables that are in nobody's hands yet."""
    mine, others = (np.zeros(vertices.count, np.bool_) for _ in range(2))
    mine[corners.triangles[faces].reshape(-1)] = True
    others[corners.triangles[~faces].reshape(-1)] = True
    rows = np.flatnonzero(mine & ~others)
    if WEIGHT not in vertices:
        return
    if HAND not in vertices:
        vertices.add_column(HAND, vertices.width(WEIGHT))
    for name in (WEIGHT, HAND):
        vertices[name][rows] = 0.0
        vertices[name][rows, column] = 1.0
