"""Mending what a check of the mesh found, just there."""

import numpy as np

from hulmo.core.care import CHECKS
from hulmo.core.care.check import Check, Found
from hulmo.core.care.coarse_border import ASKED, limit_of
from hulmo.core.care.stretched import usual_edge
from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, PatchDelta, TablesDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.weights import tidied, weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corners_among import any_of
from hulmo.core.mesh.patch import PatchRecorder, lay_patch
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project
from hulmo.core.topology.crossing import crossing
from hulmo.core.topology.cure import remesh_around, unfold, untangle
from hulmo.core.topology.heal import healed
from hulmo.core.topology.improve import improved
from hulmo.core.topology.unused import without_unused

HALVINGS = 6
"""How often edges along a border are split at the most."""

CUT_OUT = ("thin", "turned", "crossing", "valence")
"""Faults that are cut out where nothing else helps."""

TURNED = ("thin", "valence")
"""Faults that turning edges can mend."""

FAIR = 10.0
"""Degrees under which no angle comes by turning edges away from crowded vertices."""

ROUNDS = 4
"""How often what is left is gone over again."""

SHARES = (1.0, 1.35, 0.75)
"""Edge lengths that crowded vertices are tried with, one after the other while none helps; shares of the usual length."""


class Cure(Command, frozen=True, tag="cure"):
    """Remesh around the triangles that a check found; the rest of the body stays as it is.

    Attributes
    ----------
    body : str
    check : str
        thin, valence, turned, stretched, crossing or border; doubles are cured by `weld`.
    limit : float or None
        From where on something is a fault; the check's own when left out.
    """

    body: str
    check: str
    limit: float | None = None

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "cure")
        check = CHECKS.get(self.check)
        if check is None or check.cure != "remesh":
            known = ", ".join(repr(name) for name, entry in CHECKS.items() if entry.cure == "remesh")
            raise InvalidInput(f"cure: there is no cure on the spot for {self.check!r}; there is one for {known}")
        limit = check.limit.check(check.limit.default if self.limit is None else self.limit, "cure")
        weights_of(body, len(project.grounds))
        work = body.copy()  # a patch of it fits the body, which others look at meanwhile
        whole = PatchRecorder(work)
        progress.step(0.0, f"looking for {check.label.lower()}")
        found = check.find(work, limit, progress.part(0.0, 0.1))
        shares = iter(SHARES if self.check == "valence" else SHARES[:1])
        share = next(shares)
        for done in range(ROUNDS):
            if not found.count:
                break
            progress.step((done + 0.1) / ROUNDS, "remeshing around them")
            recorder = PatchRecorder(work, whole)
            self._mend(work, found.triangles, limit, recorder, share)
            patch = recorder.result()
            left = check.find(work, limit, progress.part((done + 0.5) / ROUNDS, (done + 1) / ROUNDS))
            if patch is not None and left.count >= found.count:
                lay_patch(work, patch[0])  # this round made nothing better: what is left cannot be mended this way
            if patch is not None and left.count < found.count:
                found = left
                continue
            share = next(shares, 0.0)
            if not share:
                break
        label = f"{check.cure_label}: {check.label.lower()}"
        better = self._healed(work, check, limit, found, progress) if found.count and self.check in CUT_OUT else None
        if better is not None:
            work, found = better, check.find(better, limit, silent())
        if found.count and self.check in TURNED:
            better = self._turned(work, check, limit, found) or better
        if better is not None:
            vertices, corners = compact(better.vertices, better.corners)
            tables = (tidied(vertices), corners)
            return Edit(label, (TablesDelta(body.ident, (body.vertices, body.corners), tables),))
        result = whole.result()
        return Edit(label, () if result is None else (PatchDelta(body.ident, *result),))

    def _turned(self, work: Body, check: Check, limit: float, found: Found) -> Body | None:
        # edges turned and vertices joined one by one, as long as that leaves fewer faults
        faces = np.zeros(work.corners.count, np.bool_)
        faces[found.triangles] = True
        near = np.zeros(work.vertices.count, np.bool_)
        near[work.corners.triangles[faces]] = True
        live = work.corners.triangles[:, 0] >= 0
        faces = any_of(near, work.corners.triangles)[live]
        vertices, corners = compact(work.vertices, work.corners)
        made = improved(vertices, corners, faces, FAIR if self.check == "valence" else limit)
        other = work.copy()
        other.vertices, other.corners = without_unused(vertices.copy(), made)
        other.replaced()
        fewer = check.find(other, limit, silent()).count < found.count
        return other if fewer and crossing(other, silent()).size <= crossing(work, silent()).size else None

    def _healed(self, work: Body, check: Check, limit: float, found: Found, progress: Progress) -> Body | None:
        # what is left is cut out and closed over, as long as that leaves fewer faults, and none of another kind
        progress.step(0.95, "cutting out what is left")
        best: Body | None = None
        for _ in range(ROUNDS):
            other = healed(best or work, found.triangles)
            if (
                other is None
                or not other.corners.live_count
                or crossing(other, silent()).size > crossing(best or work, silent()).size
            ):
                break
            left = check.find(other, limit, silent())
            if left.count >= found.count:
                break
            best, found = other, left
            if not found.count:
                break
        return best

    def _mend(self, body: Body, slots: np.ndarray, limit: float, recorder: PatchRecorder, share: float) -> None:
        if self.check == "turned":
            unfold(body, slots, limit, recorder)
        if self.check == "crossing":
            untangle(body, slots, recorder)
            return
        if self.check == "border":
            limit = limit_of(body, limit)
            for _ in range(HALVINGS):
                if not slots.size:
                    break
                remesh_around(body, slots, True, False, ASKED * limit, recorder)
                slots = CHECKS["border"].find(body, limit, silent()).triangles
            return
        wanted = usual_edge(body) * max(1.0, 0.6 * limit) if self.check == "stretched" else 0.0
        remesh_around(body, slots, True, self.check in ("thin", "turned", "valence"), wanted, recorder, share=share)
