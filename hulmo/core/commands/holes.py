"""Faces taken out, holes closed, borders joined."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand.choice import Mask, as_domain
from hulmo.core.commands.by_hand import chosen_of
from hulmo.core.commands.command import Command
from hulmo.core.commands.made_by_hand import Tables, begun, evened_tables, finite, tables_edit, unguarded
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import EDGES
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.topology.bridge import bridge
from hulmo.core.topology.extend import extend
from hulmo.core.topology.fill import border_loops, fill_loops
from hulmo.core.topology.mend import mend
from hulmo.core.topology.parts import picked

Rows = NDArray[np.int32]


class DeleteChosen(Command, frozen=True, tag="delete_chosen"):
    """Take the chosen faces, or the faces at chosen edges or vertices, out of a body.

    Attributes
    ----------
    body, domain : str
    close : bool
        Whether the hole is closed again.
    tidy : bool
        Whether new faces get edges about as long as those at their rim.
    """

    body: str
    domain: str = "face"
    close: bool = False
    tidy: bool = True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "delete_chosen"
        body, mask = chosen_of(project, self.body, self.domain, where)
        triangles = body.corners.triangles
        faces = mask
        if self.domain != "face":
            near = mask[triangles] if self.domain == "vertex" else mask
            faces = np.asarray(near.any(axis=1) & (triangles[:, 0] >= 0))
        unguarded(body, as_domain(body, faces, "face", "vertex"), where)
        if bool((faces | (triangles[:, 0] < 0)).all()):
            raise InvalidInput(f"{where}: nothing of {body.name!r} would be left; remove the body instead")
        if body.border_lock and bool((body.corners.opposite.reshape(-1, 3)[faces] < 0).any()):
            raise InvalidInput(
                f"{where}: the border of {body.name!r} is locked; unlock it, or choose faces away from it"
            )
        vertices, corners, (chosen_faces,) = begun(body, (faces, "face"))
        rim = np.zeros(vertices.count, np.bool_)
        rim[corners.triangles[chosen_faces].reshape(-1)] = True
        left = np.unique(corners.triangles[~chosen_faces])
        table, made = picked(vertices, corners, ~chosen_faces)
        table, made = _opened(table, made, rim[left])
        if self.close:
            loops = [loop for loop in border_loops(made) if table["stroke rim"][loop, 0].all()]
            table, made = evened_tables(fill_loops(table, made, loops), made.count, self.tidy)
        table.drop_column("stroke rim")
        return tables_edit(f"Delete {body.name}'s faces", body, (table, made))


def _opened(table: VertexTable, corners: CornerTable, rim: Mask) -> Tables:
    # where fans touch in one vertex after faces have gone, each gets its own
    table.set_column("stroke rim", rim.astype(np.float32)[:, None])
    result = mend(table["position"], corners.live_triangles(), outward=False)
    out = VertexTable(result.source.size)
    for name in table.names:
        out.set_column(name, table[name][result.source])
    slots = corners.slots.taken(result.faces, result.turned)
    return out, CornerTable.from_triangles(result.triangles, out.count, slots)


def _loops_at(project: Project, name: str, domain: str, where: str) -> tuple[Body, Tables, list[Rows]]:
    # border loops that what is chosen lies at, in tables without freed slots
    body, mask = chosen_of(project, name, domain, where)
    vertices, corners, (rows,) = begun(body, (as_domain(body, mask, domain, "vertex"), "vertex"))
    return body, (vertices, corners), [loop for loop in border_loops(corners) if rows[loop].any()]


class ExtendBorder(Command, frozen=True, tag="extend_border"):
    """Put a row of faces outward of the chosen border edges, along the surface; the new border is chosen then.

    Attributes
    ----------
    body : str
    distance : float
        Metres.
    """

    body: str
    distance: float = 1.0

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "extend_border"
        body, mask = chosen_of(project, self.body, "edge", where)
        finite(where, distance=self.distance)
        if not self.distance > 0:
            raise InvalidInput(f"{where}: distance is {self.distance:g} m; it must be larger than 0")
        edges = mask & (body.corners.opposite.reshape(-1, 3) < 0)
        if not edges.any():
            raise InvalidInput(f"{where}: no chosen edge of {body.name!r} lies at a border; choose some that do")
        if body.border_lock:
            raise InvalidInput(f"{where}: the border of {body.name!r} is locked; unlock it first")
        unguarded(body, as_domain(body, edges, "edge", "vertex"), where)
        vertices, corners, (rim,) = begun(body, (edges, "edge"))
        table, made, outer = extend(vertices, corners, rim, self.distance)
        made.slots.set("edge", EDGES, outer.astype(np.float32)[..., None])
        return tables_edit(f"Extend {body.name}", body, (table, made))


class FillChosen(Command, frozen=True, tag="fill_chosen"):
    """Close the border loops that chosen vertices, edges or faces lie at.

    Attributes
    ----------
    body, domain : str
    tidy : bool
        Whether new faces get edges about as long as those at their rim.
    """

    body: str
    domain: str = "edge"
    tidy: bool = True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body, (vertices, corners), loops = _loops_at(project, self.body, self.domain, "fill_chosen")
        if not loops:
            raise InvalidInput(f"fill_chosen: nothing that is chosen of {body.name!r} lies at a border")
        if body.border_lock:
            raise InvalidInput(f"fill_chosen: the border of {body.name!r} is locked; unlock it first")
        made = fill_loops(vertices, corners, loops)
        return tables_edit(f"Fill {body.name}", body, evened_tables(made, corners.count, self.tidy))


class BridgeChosen(Command, frozen=True, tag="bridge_chosen"):
    """Join the two border loops that chosen vertices, edges or faces lie at by a band of faces.

    Attributes
    ----------
    body, domain : str
    tidy : bool
        Whether new faces get edges about as long as those at their rim.
    """

    body: str
    domain: str = "edge"
    tidy: bool = True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body, (vertices, corners), loops = _loops_at(project, self.body, self.domain, "bridge_chosen")
        if len(loops) != 2:
            raise InvalidInput(
                f"bridge_chosen: what is chosen of {body.name!r} lies at {len(loops)} border loops; choose some of two"
            )
        if body.border_lock:
            raise InvalidInput(f"bridge_chosen: the border of {body.name!r} is locked; unlock it first")
        made = bridge(vertices, corners, *loops)
        return tables_edit(f"Bridge {body.name}", body, evened_tables(made, corners.count, self.tidy))
