"""Props that are at fault put right."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.command import Command
from hulmo.core.commands.strew import strew_edit
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.strewn import BY_RULE, REMOVED, Strewn
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.props.faults import BURIED, KINDS, STEEPEST, faults_of
from hulmo.core.props.tray import tray_of


class CureProps(Command, frozen=True, tag="cure_props"):
    """Put props right that are at fault: what floats is sunk until its rim meets the ground, and taken away where that would
    bury it; what is buried is set on its foot, what leans is raised to the limit, and what overlaps another or stands in
    water is taken away.

    Attributes
    ----------
    body : str
    fault : str
        floats, buried, leans, overlaps or wet.
    steepest : float
        Degrees that a prop may lean.
    """

    body: str
    fault: str
    steepest: float = STEEPEST

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "cure_props"
        body = project.unlocked_body(self.body, where)
        if self.fault not in KINDS:
            raise InvalidInput(f"{where}: there is no fault {shown(self.fault)}; known are {', '.join(KINDS)}")
        if not 0.0 <= self.steepest <= 180.0:
            raise InvalidInput(f"{where}: steepest is {self.steepest:g}; it must lie between 0 and 180 degrees")
        strewn = body.strewn if body.strewn is not None else Strewn.none()
        tray = tray_of(project.props, project.prop_meshes)
        found, gap = faults_of(body, strewn, tray, self.steepest, progress)
        rows = np.flatnonzero(found[self.fault])
        label = f"Cure props: {KINDS[self.fault].lower()}"
        if not rows.size:
            return Edit(label, ())
        if self.fault == "floats":
            sink = strewn.sink.copy()
            sink[rows] += gap[rows]
            high = {ident: mesh.high for ident, mesh in tray.meshes.items()}
            tall = np.array([high[int(ident)] for ident in strewn.prop[rows]]) * strewn.size[rows]
            gone = rows[sink[rows] > BURIED * tall]  # at an edge: nothing of it would be seen
            return strew_edit(body, _without(strewn.changed(sink=sink), gone), label)
        if self.fault == "buried":
            foot = {prop.ident: prop.foot for prop in project.props}
            sink = strewn.sink.copy()
            sink[rows] = [0.6 * foot[int(ident)] for ident in strewn.prop[rows]] * strewn.size[rows]
            return strew_edit(body, strewn.changed(sink=sink), label)
        if self.fault == "leans":
            upright, lean = strewn.upright.copy(), strewn.lean.copy()
            upright[rows], lean[rows] = 1.0, 0.0
            return strew_edit(body, strewn.changed(upright=upright, lean=lean), label)
        return strew_edit(body, _without(strewn, rows), label)


def _without(strewn: Strewn, rows: NDArray[np.intp]) -> Strewn:
    # those that rules have set are remembered as taken away, so that they do not come again
    ruled = strewn.mark[rows] == BY_RULE
    mark, keep = strewn.mark.copy(), np.ones(strewn.count, np.bool_)
    mark[rows[ruled]], keep[rows[~ruled]] = REMOVED, False
    return strewn.changed(mark=mark).taken(keep)
