"""Seams for unwrapping, and unwrapping along them."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.by_hand import find
from hulmo.core.by_hand.choice import both_sides, chosen, live
from hulmo.core.commands.by_hand import chosen_of
from hulmo.core.commands.command import Command
from hulmo.core.commands.laid_uv import faces_of, known_uv, laid_in, laid_uv, surface_of
from hulmo.core.commands.objects import object_named
from hulmo.core.edit import Edit, SlotColumnDelta
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.ground.lies_most import lies_most
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.areas import triangle_areas
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import SEAM
from hulmo.core.mesh.torn import torn
from hulmo.core.objects.line import is_line
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.uv.along_seams import pinned_again, relaxed
from hulmo.core.uv.apart import laid_along_seams_apart, packed_apart
from hulmo.core.uv.charts import SAME, charts_of
from hulmo.core.uv.figures import stretches
from hulmo.core.uv.flatten import KEEP
from hulmo.core.uv.laid import opposite_of
from hulmo.core.uv.pack import even_density
from hulmo.core.uv.seams import seams_of
from hulmo.core.uv.sets import check_raster

SEAMS_BY = ("chosen", "sharp", "grounds", "line", "charts", "all")

LOOSE = ("chosen", "stretched", "all")


class MarkSeams(Command, frozen=True, tag="mark_seams"):
    """Mark edges along which a body is cut open to be unwrapped, or take such marks away.

    Attributes
    ----------
    body : str
    by : str
        chosen: the chosen edges. sharp: edges that bend by `angle` degrees or more. grounds: edges between faces on which
        different grounds lie thickest. line: edges that were cut along the outline or track `name`. charts: edges at which
        the set of UV `name` is torn. all: every edge, to take all marks away.
    on : bool
        Whether they become seams, or are none any more.
    angle : float
        Degrees, 1 to 180.
    name : str
        Of a line, or a set of UV.
    """

    body: str
    by: str = "chosen"
    on: bool = True
    angle: float = 60.0
    name: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "mark_seams"
        if self.by not in SEAMS_BY:
            raise InvalidInput(f"{where}: by is {shown(self.by)}; it must be one of {', '.join(SEAMS_BY)}")
        if not 1 <= self.angle <= 180:
            raise InvalidInput(f"{where}: angle is {self.angle:g}; it must lie between 1 and 180 degrees")
        if self.by == "all" and self.on:
            raise InvalidInput(f"{where}: all edges can't be seams; choose some, or take all marks away")
        body = project.unlocked_body(self.body, where)
        mask = self._edges(project, body, where)
        inner = body.corners.opposite.reshape(-1, 3) >= 0  # a border is open already
        mask = both_sides(body.corners, mask) & inner & live(body.corners)[:, None]
        old = body.corners.slots.get(SEAM)
        new = np.zeros((body.corners.count, 3, 1), np.float32) if old is None else old.copy()
        new[mask] = float(self.on)
        if (old is None and not new.any()) or (old is not None and np.array_equal(old, new)):
            words = "no edge there can be made a seam" if self.on else "there is no seam there"
            raise InvalidInput(f"{where}: nothing would change: {words}, or it is one already")
        after = new if new.any() else None
        label = "Mark seams" if self.on else "Take seams away"
        return Edit(label, (SlotColumnDelta(body.ident, "edge", SEAM, None if old is None else old.copy(), after),))

    def _edges(self, project: Project, body: Body, where: str) -> NDArray[np.bool_]:
        every = np.ones((body.corners.count, 3), np.bool_)
        if self.by == "all":
            return every
        if self.by == "chosen":
            return chosen_of(project, body.name, "edge", where)[1]
        if self.by == "sharp":
            return find.sharp(body, self.angle)
        across = body.corners.opposite.reshape(-1, 3)
        if self.by == "grounds":
            weight = weights_of(body, max(len(project.grounds), 1))
            first = lies_most(weight, body.corners.triangles)
            return np.asarray(first[:, None] != first[np.maximum(across, 0) // 3])
        if self.by == "line":
            entry = object_named(project, self.name, where)
            if not is_line(entry):
                raise InvalidInput(f"{where}: {self.name!r} is neither an outline nor a track")
            found = find.cut_of(body, entry.ident)[1]
            if not found.any():
                raise InvalidInput(f"{where}: nothing was cut along {self.name!r}; let it cut the mesh first")
            return found
        laid = laid_in(body, self.name, where)
        out = np.zeros((body.corners.count, 3), np.bool_)
        out[laid.slots] = torn(laid.uv, laid.opposite, SAME)
        return out


class UnwrapAlongSeams(Command, frozen=True, tag="unwrap_along_seams"):
    """Cut a body open along its seams and lay what comes of it flat.

    Attributes
    ----------
    body : str
    keep : str
        angles; or both: angles and areas.
    faces : str
        all or chosen.
    of : str
        surface or form.
    size, margin : int
        Texels of the image that it is for, and between charts.
    pins : bool
        Whether charts in which two or more vertices are chosen are laid anew with those held where they lie; nothing is
        packed, and other charts stay.
    into : str
        Name of the set; empty for the first.
    """

    body: str
    keep: str = "angles"
    faces: str = "all"
    of: str = "surface"
    size: int = 2048
    margin: int = 4
    pins: bool = False
    into: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "unwrap_along_seams"
        check_raster(self.size, self.margin, where)
        if self.keep not in KEEP:
            raise InvalidInput(f"{where}: keep is {shown(self.keep)}; it must be one of {', '.join(KEEP)}")
        body = project.unlocked_body(self.body, where)
        slots = faces_of(body, self.faces, where)
        place = surface_of(body, self.of, where).astype(np.float64)[body.corners.triangles[slots]]
        opposite = opposite_of(body, slots)
        if self.pins:
            known = known_uv(body, self.into, where)[slots].astype(np.float64)
            pinned = chosen(body, "vertex")[body.corners.triangles[slots]]
            uv, many = pinned_again(place, known, charts_of(known, opposite), pinned)
            if not many:
                raise InvalidInput(f"{where}: no chart has two chosen vertices apart from each other; choose such")
            return laid_uv(body, slots, uv, self.into, "Unwrap with pins", where)
        uv, chart = laid_along_seams_apart(place, opposite, seams_of(body)[slots], self.keep, progress)
        uv = packed_apart(even_density(uv, triangle_areas(place), chart), chart, self.size, self.margin, True, progress)
        return laid_uv(body, slots, uv, self.into, "Unwrap along seams", where)


class RelaxUv(Command, frozen=True, tag="relax_uv"):
    """Let new or reshaped faces find their place in texture coordinates anew, with all others and the rims of charts held.

    Attributes
    ----------
    body : str
    faces : str
        chosen; stretched: those stretched by more than `limit`, and their neighbours; all.
    limit : float
        Times the mean stretch, 1.05 to 100.
    of : str
        surface or form.
    into : str
        Name of the set; empty for the first.
    """

    body: str
    faces: str = "stretched"
    limit: float = 1.5
    of: str = "surface"
    into: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "relax_uv"
        if self.faces not in LOOSE:
            raise InvalidInput(f"{where}: faces is {shown(self.faces)}; it must be one of {', '.join(LOOSE)}")
        if not 1.05 <= self.limit <= 100:
            raise InvalidInput(f"{where}: limit is {self.limit:g}; it must lie between 1.05 and 100")
        body = project.unlocked_body(self.body, where)
        laid = laid_in(body, self.into, where)
        slots, uv = laid.slots, laid.uv
        place = surface_of(body, self.of, where).astype(np.float64)[body.corners.triangles[slots]]
        loose = np.ones(slots.size, np.bool_)
        if self.faces == "chosen":
            loose = np.isin(slots, faces_of(body, "chosen", where))
        elif self.faces == "stretched":
            loose = _stretched(place, uv, laid.opposite, self.limit)
            if not loose.any():
                raise InvalidInput(
                    f"{where}: no face is stretched by more than {self.limit:g} times the mean; lower it"
                )
        found, stayed = relaxed(place, uv, laid.chart, loose)
        if np.array_equal(found, uv):
            words = (
                "it would turn faces over; unwrap anew" if stayed else "no point lies within what is loose; take more"
            )
            raise InvalidInput(f"{where}: nothing can be relaxed there: {words}")
        return laid_uv(body, slots, found, self.into, "Relax UV", where)


def _stretched(
    place: NDArray[np.float64], uv: NDArray[np.float64], opposite: NDArray[np.int32], limit: float
) -> NDArray[np.bool_]:
    _, most = stretches(place, uv)
    good = np.isfinite(most)
    mean = float(np.median(most[good])) if good.any() else 1.0
    found = np.asarray(~good | (most > limit * mean) | (most < mean / limit))
    across = opposite.reshape(-1, 3)
    for _ in range(2):  # what lies about them has to give way
        found = found | (found[np.maximum(across, 0) // 3] & (across >= 0)).any(axis=1)
    return found
