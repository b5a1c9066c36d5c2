"""Strewing by brush."""

from typing import Any

import msgspec

from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, StrewDelta
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.core.mesh.strewn import Strewn
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.props.strew import SETTINGS, Strewing
from hulmo.core.props.tray import tray_of
from hulmo.core.sculpt.sampler import Sample, Sampler
from hulmo.core.setting import complete, number

STEP = 0.35
"""Radii from one dab of a strewing stroke to the next."""


class Strew(Command, frozen=True, tag="strew"):
    """Strew props along a stroke, or thin them out, erase or reseed them.

    Attributes
    ----------
    body : str
    samples : list of lists of numbers
        3: a point. 6: a ray, origin and direction; metres.
    settings : dict
        What differs from the defaults; see below.
    shares : dict of str to float
        Props of the tray by name, and how often each is chosen; empty: as the tray says.
    """

    body: str
    samples: tuple[tuple[float, ...], ...]
    settings: dict[str, Any] = {}
    shares: dict[str, float] = {}

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        live = LiveStrew(project, self)
        for done, sample in enumerate(self.samples):
            progress.step(done / len(self.samples), "strewing")
            live.add(sample)
        return live.result()


class LiveStrew:
    """A strewing stroke that is still going on.

    Parameters
    ----------
    project : Project
    start : Strew
        Its samples are not used.

    Raises
    ------
    InvalidInput
    """

    def __init__(self, project: Project, start: Strew) -> None:
        self._body = project.unlocked_body(start.body, "strew")
        values = complete(SETTINGS, start.settings, "strew")
        tray = tray_of(project.props, project.prop_meshes, start.shares or None)
        self.engine = Strewing(self._body, project.ground_names, tray, values)
        self._mode = str(values["mode"])
        self._sampler = Sampler(self._find, STEP * number(values, "radius"))
        self._samples: list[tuple[float, ...]] = []
        self._start = start

    def add(self, numbers: tuple[float, ...]) -> bool:
        """Lay the dabs up to one more sample; whether there were any."""
        sample = Sample.from_numbers(numbers, f"strew, sample {len(self._samples) + 1}")
        self._samples.append(tuple(float(value) for value in numbers))
        laid = False
        for hit, _ in self._sampler.advance(sample):
            self.engine.add(self._body.own(hit.position))
            laid = True
        return laid

    def _find(self, sample: Sample) -> SurfacePoint | None:
        if sample.direction is None:
            return self._body.nearest(sample.origin)
        return self._body.ray(sample.origin, sample.direction)

    @property
    def strewn(self) -> Strewn:
        """As it has become."""
        return self.engine.strewn

    def command(self) -> Strew:
        """What it amounts to."""
        return msgspec.structs.replace(self._start, samples=tuple(self._samples))

    def result(self) -> Edit:
        """The edit; without deltas where nothing has changed."""
        words = {"strew": "Strew", "thin": "Thin props out", "erase": "Erase props", "reseed": "Reseed props"}
        return strew_edit(self._body, self.strewn, words[self._mode])


def strew_edit(body: Body, strewn: Strewn, label: str) -> Edit:
    """The edit after which a body carries other props; without deltas where they are the same."""
    before = body.strewn if body.strewn is not None else Strewn.none()
    if not before.differs(strewn):
        return Edit(label, ())
    return Edit(label, (StrewDelta(body.ident, body.strewn, strewn if strewn.count else None),))
