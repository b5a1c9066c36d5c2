"""Cuts along planes; sheets made bodies."""

import numpy as np

from hulmo.core.commands.command import Command
from hulmo.core.commands.made_by_hand import Triple, begun, finite, tables_edit, tidied_tables
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import GUARD
from hulmo.core.mesh.chosen_parts import EDGES
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.topology.cut_planes import cut_planes
from hulmo.core.topology.thicken import thicken

MOST_LEVELS = 500

CUT_NOW = "cut now"
"""Edge column that holds the cut while triangles beside it are made better."""


class CutLevels(Command, frozen=True, tag="cut_levels"):
    """Cut a body along planes: edges where they meet it, the shape as it is; the new edges are chosen.

    Attributes
    ----------
    body : str
    toward : [x, y, z]
        Normal of the planes.
    at : [x, y, z] or None
        A place on the plane, metres; None: so many planes as `levels` says, evenly spaced between both ends.
    levels : int
        1 to 500.
    tidy : bool
        Whether thin triangles that come of it are made better by turning edges; those along the cut stay.
    """

    body: str
    toward: Triple = (0.0, 1.0, 0.0)
    at: Triple | None = None
    levels: int = 1
    tidy: bool = True

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "cut_levels"
        body = project.body_named(self.body, where)
        if not np.isfinite([*self.toward, *(self.at or ())]).all() or not any(self.toward):
            raise InvalidInput(f"{where}: toward and at must be finite numbers, and toward have a direction")
        if not 1 <= self.levels <= MOST_LEVELS:
            raise InvalidInput(f"{where}: levels is {self.levels}; it must lie between 1 and {MOST_LEVELS}")
        normal = np.array(self.toward) / np.linalg.norm(self.toward)
        vertices, corners, _ = begun(body)
        along = vertices["position"].astype(np.float64) @ normal
        low, high = float(along.min()), float(along.max())
        if self.at is None:
            places = [low + (high - low) * (i + 1) / (self.levels + 1) for i in range(self.levels)]
        else:
            places = [float(body.own(np.array(self.at)) @ normal)]
        if GUARD in body.vertices and body.vertices[GUARD].any():
            raise InvalidInput(
                f"{where}: part of {body.name!r} is guarded; a cut goes through all of it, so clear the guard"
            )
        if body.border_lock:
            raise InvalidInput(f"{where}: the border of {body.name!r} is locked; a cut may go through it, so unlock it")
        before = vertices.count
        vertices, corners = cut_planes(vertices, corners, normal, places, progress)
        height = vertices["position"].astype(np.float64) @ normal
        near = np.zeros(vertices.count, np.bool_)
        for place in places:
            near |= np.abs(height - place) < 1e-5 * max(high - low, 1e-9)
        ends = near[corners.triangles]
        on = np.stack((ends[:, 1] & ends[:, 2], ends[:, 2] & ends[:, 0], ends[:, 0] & ends[:, 1]), axis=1)
        if not on.any():
            raise InvalidInput(f"{where}: no plane goes through an edge of {body.name!r}; nothing was cut")
        corners.slots.set("edge", CUT_NOW, on.astype(np.float32)[..., None])  # a seam meanwhile
        vertices, corners = tidied_tables((vertices, corners), before, self.tidy)
        cut = corners.slots[CUT_NOW].copy()
        corners.slots.drop(CUT_NOW)
        corners.slots.set("edge", EDGES, cut)
        return tables_edit(f"Cut {body.name}", body, (vertices, corners))


class Thicken(Command, frozen=True, tag="thicken"):
    """Make a body of a sheet: a second side behind it, and a rim.

    Attributes
    ----------
    body : str
    thickness : float
        Metres.
    """

    body: str
    thickness: float = 0.5

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "thicken")
        finite("thicken", thickness=self.thickness)
        if not self.thickness > 0:
            raise InvalidInput(f"thicken: thickness is {self.thickness:g} m; it must be larger than 0")
        if body.border_lock:
            raise InvalidInput(f"thicken: the border of {body.name!r} is locked; unlock it first")
        vertices, corners, _ = begun(body)
        return tables_edit(f"Thicken {body.name}", body, thicken(vertices, corners, self.thickness))
