"""Triangles fitted to what viewpoints see of them."""

import numpy as np

from hulmo.core.care.seen_from import seen_from
from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, PatchDelta
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.patch import PatchRecorder
from hulmo.core.mesh.sides import side_lengths
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.topology.local_remesh import LocalRemesh

WAYS = ("refine", "thin_out")

ROUNDS = 8
"""How often triangles are halved at the most."""

COARSER = 2.0
"""Times its usual edge length that surface becomes which is never seen."""

MOST_TRIANGLES = 4_000_000


class FitToViews(Command, frozen=True, tag="fit_to_views"):
    """Refine a body where viewpoints see large triangles, or thin it out where none of them sees it. Guard and borders stay.

    Attributes
    ----------
    body : str
    way : str
        refine: until no triangle takes more than `pixels`. thin_out: what is never seen gets edges twice as long.
    pixels : float
        Of a picture of `width` by `height`.
    width, height : int
    views : list of str
        Viewpoints by name; empty: all.
    """

    body: str
    way: str = "refine"
    pixels: float = 120.0
    width: int = 1920
    height: int = 1080
    views: tuple[str, ...] = ()

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "fit_to_views"
        body = project.unlocked_body(self.body, where)
        if self.way not in WAYS:
            raise InvalidInput(f"{where}: way is {shown(self.way)}; it must be one of {', '.join(WAYS)}")
        if not 1.0 <= self.pixels <= 1e7:
            raise InvalidInput(f"{where}: pixels is {self.pixels:g}; it must lie between 1 and 10,000,000")
        if not (16 <= self.width <= 16384 and 16 <= self.height <= 16384):
            raise InvalidInput(f"{where}: a picture has 16 to 16,384 pixels a side")
        known = {view.name: view for view in project.viewpoints}
        for name in self.views:
            if name not in known:
                raise InvalidInput(
                    f"{where}: there is no viewpoint {shown(name)}; there is {', '.join(known) or 'none'}"
                )
        views = tuple(known[name] for name in self.views) or tuple(known.values())
        if not views:
            raise InvalidInput(f"{where}: the project has no viewpoint; keep one under Light, In the scene")
        others = tuple(other for other in project.bodies if other.shown and other is not body)
        weights_of(body, len(project.grounds))
        work = body.copy()
        recorder = PatchRecorder(work)
        remesh = LocalRemesh(work)
        size = (self.width, self.height)
        for done in range(ROUNDS if self.way == "refine" else 1):
            part = progress.part(done / ROUNDS, (done + 1) / ROUNDS)
            found = seen_from(work, views, size, part, others)
            live = work.corners.triangles[:, 0] >= 0
            wanted = found.seen & (found.pixels > self.pixels) if self.way == "refine" else live & ~found.seen
            slots = np.flatnonzero(wanted).astype(np.int32)
            if not slots.size:
                break
            usual = float(np.median(side_lengths(work.vertices["position"], work.corners.triangles[slots])))
            if self.way == "refine":
                if work.corners.live_count + slots.size > MOST_TRIANGLES:
                    raise InvalidInput(
                        f"{where}: this would make more than {MOST_TRIANGLES:,} triangles; allow more pixels"
                    )
                remesh.run(
                    _wider(work.corners.triangles, slots),
                    np.zeros(3),
                    1e30,
                    0.7 * usual,
                    True,
                    False,
                    recorder=recorder,
                )
            else:
                remesh.run(slots, np.zeros(3), 1e30, COARSER * usual, False, True, True, recorder=recorder)
        result = recorder.result()
        label = "Refine for viewpoints" if self.way == "refine" else "Thin out what is never seen"
        return Edit(label, () if result is None else (PatchDelta(body.ident, *result),))


def _wider(triangles: np.ndarray, slots: np.ndarray) -> np.ndarray:
    # with those beside them, so that edges between can be halved
    touched = np.zeros(int(triangles.max(initial=-1)) + 1, np.bool_)
    touched[triangles[slots].reshape(-1)] = True
    near = touched[np.maximum(triangles, 0)].any(axis=1) & (triangles[:, 0] >= 0)
    return np.flatnonzero(near).astype(np.int32)
