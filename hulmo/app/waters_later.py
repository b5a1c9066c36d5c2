"""Where waters stand, found out in the background when bodies or waters have changed."""

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

from PyQt6.QtCore import pyqtSignal

from hulmo.app.resting_work import RestingWork
from hulmo.core.edit import Change
from hulmo.core.errors import InvalidInput
from hulmo.core.objects.water import is_water
from hulmo.core.progress import Progress
from hulmo.core.water.surface import WaterSurface, water_surface
from hulmo.render.waters import moves_waters

if TYPE_CHECKING:
    from hulmo.app.session import Session

REST = 150
"""Milliseconds without a change after which they are found."""


class WatersLater(RestingWork):
    """Keeps the surfaces of all waters of the project up to date.

    Attributes
    ----------
    surfaces : dict of int to WaterSurface
        By the number of the object.
    problems : dict of int to str
        Why there is none.

    Signals
    -------
    found
        They are others.
    """

    found = pyqtSignal()

    def __init__(self, session: "Session") -> None:
        super().__init__(session, REST)
        self.surfaces: dict[int, WaterSurface] = {}
        self.problems: dict[int, str] = {}
        session.changed.connect(self._note)
        session.replaced.connect(self._anew)

    @property
    def any(self) -> bool:
        """Whether the project has waters."""
        return any(is_water(entry) for entry in self._session.project.objects)

    def next_work(self) -> tuple[Callable[[Progress], Any], Callable[[Any], None]] | None:
        """See `RestingWork.next_work`."""
        project = self._session.project
        entries = [entry for entry in project.objects if is_water(entry) and entry.shown]

        def work(progress: Progress) -> tuple[dict[int, WaterSurface], dict[int, str]]:
            surfaces, problems = {}, {}
            for done, entry in enumerate(entries):
                share = progress.part(done / len(entries), (done + 1) / len(entries))
                try:
                    surfaces[entry.ident] = water_surface(project.bodies, project.objects, entry, share)
                except InvalidInput as error:
                    problems[entry.ident] = str(error)
            return surfaces, problems

        def then(result: Any) -> None:
            self.surfaces, self.problems = result
            self.found.emit()

        return (work, then) if entries or self.surfaces else None

    def _anew(self) -> None:
        self.surfaces, self.problems = {}, {}
        self.found.emit()
        if self.any:
            self.wait()

    def _note(self, change: Change) -> None:
        if moves_waters(change) and (self.any or self.surfaces):
            self.wait()
