"""Edges split, joined and turned; vertices planted."""

import numpy as np

from hulmo.core.by_hand.choice import Mask, as_domain
from hulmo.core.commands.by_hand import chosen_of
from hulmo.core.commands.command import Command
from hulmo.core.commands.made_by_hand import Triple, begun, tables_edit, tidied_tables, unguarded
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import EDGES
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.edge_ends import edge_ends
from hulmo.core.mesh.graph import hanging_together
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.topology.mend import mend
from hulmo.core.topology.plant import ON_EDGE, plant
from hulmo.core.topology.split_edges import split_edges
from hulmo.core.topology.turn_edges import turn_edges


def _edges_of(project: Project, name: str, domain: str, where: str) -> tuple[Body, Mask]:
    # the chosen edges, or those of the chosen faces, where none is guarded
    if domain == "vertex":
        raise InvalidInput(f"{where}: domain is 'vertex'; it must be edge or face")
    body, mask = chosen_of(project, name, domain, where)
    edges = as_domain(body, mask, domain, "edge")
    unguarded(body, as_domain(body, edges, "edge", "vertex"), where)
    return body, edges


class SplitChosen(Command, frozen=True, tag="split_chosen"):
    """Put a vertex in the middle of every chosen edge, or divide every chosen face in four; the shape stays.

    Attributes
    ----------
    body, domain : str
        edge, or face.
    tidy : bool
        Whether thin triangles that come of it are made better by turning edges.
    """

    body: str
    domain: str = "edge"
    tidy: bool = True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "split_chosen"
        body, edges = _edges_of(project, self.body, self.domain, where)
        if body.border_lock and bool((edges & (body.corners.opposite.reshape(-1, 3) < 0)).any()):
            raise InvalidInput(
                f"{where}: the border of {body.name!r} is locked; unlock it, or choose edges away from it"
            )
        vertices, corners, (wanted,) = begun(body, (edges, "edge"))
        table, made, _ = split_edges(vertices, corners, wanted)
        return tables_edit(f"Split {body.name}", body, tidied_tables((table, made), vertices.count, self.tidy))


class PlantVertex(Command, frozen=True, tag="plant_vertex"):
    """Put a vertex on a face, or on its edge where it is near one.

    Attributes
    ----------
    body : str
    face : int
        Number of the triangle.
    at : [u, v, w]
        Shares of its corners, which sum to 1.
    tidy : bool
        Whether thin triangles that come of it are made better by turning edges.
    """

    body: str
    face: int
    at: Triple = (1 / 3, 1 / 3, 1 / 3)
    tidy: bool = True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "plant_vertex"
        body = project.body_named(self.body, where)
        if not body.corners.holds(self.face):
            raise InvalidInput(f"{where}: {body.name!r} has no face {shown(self.face)}")
        share = np.array(self.at)
        if not np.isfinite(share).all() or abs(share.sum() - 1) > 1e-4 or share.min() < -1e-4 or share.max() > 1 - 1e-3:
            raise InvalidInput(f"{where}: at must be three shares of a place within the face, which sum to 1")
        faces = np.zeros(body.corners.count, np.bool_)
        faces[self.face] = True
        unguarded(body, as_domain(body, faces, "face", "vertex"), where)
        vertices, corners, (mask,) = begun(body, (faces, "face"))
        slot = int(np.flatnonzero(mask)[0])
        if share.min() < ON_EDGE and corners.opposite[3 * slot + int(share.argmin())] < 0 and body.border_lock:
            raise InvalidInput(f"plant_vertex: the border of {body.name!r} is locked; unlock it first")
        table, made, _ = plant(vertices, corners, slot, share)
        tables = tidied_tables((table, made), vertices.count, self.tidy)
        return tables_edit(f"Plant a vertex on {body.name}", body, tables)


class CollapseChosen(Command, frozen=True, tag="collapse_chosen"):
    """Make the vertices at both ends of every chosen edge one, in their middle; edges that hang together become one vertex.

    Attributes
    ----------
    body, domain : str
        edge, or face.
    """

    body: str
    domain: str = "edge"

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "collapse_chosen"
        body, edges = _edges_of(project, self.body, self.domain, where)
        vertices, corners, (wanted,) = begun(body, (edges, "edge"))
        slot, corner = np.nonzero(wanted)
        a, b = corners.triangles[slot, (corner + 1) % 3], corners.triangles[slot, (corner + 2) % 3]
        border = np.zeros(vertices.count, np.bool_)
        border[np.concatenate(edge_ends(corners, corners.border_corners()))] = True
        if body.border_lock and border[a].any():
            raise InvalidInput(
                f"{where}: the border of {body.name!r} is locked; unlock it, or choose edges away from it"
            )
        _, label = hanging_together(a, b, vertices.count)
        first = np.full(label.max() + 1, vertices.count)
        np.minimum.at(first, label, np.arange(vertices.count))
        stands = first[label]
        table = vertices.copy()
        size = np.bincount(stands, minlength=vertices.count)
        many = np.flatnonzero(size > 1)
        for name in table.names:
            total = np.zeros((vertices.count, table.width(name)))
            np.add.at(total, stands, vertices[name])
            table[name][many] = total[many] / size[many, None]
        triangles = stands[corners.triangles]
        keep = (
            (triangles[:, 0] != triangles[:, 1])
            & (triangles[:, 1] != triangles[:, 2])
            & (triangles[:, 2] != triangles[:, 0])
        )
        if not keep.any():
            raise InvalidInput(f"{where}: nothing of {body.name!r} would be left; choose less")
        used, number = np.unique(triangles[keep], return_inverse=True)
        out = VertexTable(used.size)
        for name in table.names:
            out.set_column(name, table[name][used])
        slots = corners.slots.taken(keep)
        result = mend(out["position"], number.reshape(-1, 3), outward=False)
        if result.account or result.source.size != used.size:
            raise InvalidInput(f"{where}: the surface would touch itself there; choose fewer edges")
        try:
            made = CornerTable.from_triangles(number.reshape(-1, 3).astype(np.int32), used.size, slots)
        except InvalidInput as error:
            raise InvalidInput(f"{where}: the surface would touch itself there; choose fewer edges") from error
        return tables_edit(f"Collapse {body.name}", body, (out, made))


class TurnEdges(Command, frozen=True, tag="turn_edges"):
    """Turn every chosen edge to join the two corners across from it, where the surface stays a manifold.

    Attributes
    ----------
    body : str
    """

    body: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "turn_edges"
        body, mask = chosen_of(project, self.body, "edge", where)
        unguarded(body, as_domain(body, mask, "edge", "vertex"), where)
        vertices, corners, (wanted,) = begun(body, (mask, "edge"))
        made, turned = turn_edges(corners, wanted, vertices.count)
        if not turned.size:
            raise InvalidInput(
                f"{where}: no chosen edge can be turned: each lies at a border, or its corners are joined"
            )
        made.slots[EDGES][turned.reshape(-1), 1] = 1.0  # what was chosen stays so
        return tables_edit(f"Turn edges of {body.name}", body, (vertices.copy(), made))
