"""The outlines and tracks of the project, as the window works on them."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hulmo.app.line_mark import LineMark
from hulmo.core.commands import AddLine, ChangeLine, LinePoint, RemoveObject
from hulmo.core.edit import Change
from hulmo.core.errors import InvalidInput
from hulmo.core.lines.ground import Ground
from hulmo.core.lines.measure import Measured, measured
from hulmo.core.lines.sketch import sketched
from hulmo.core.lines.trace import Trace, trace
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.line_of_sight import visible
from hulmo.core.objects.line import Line, is_line, line_of
from hulmo.core.objects.scene_object import SceneObject

if TYPE_CHECKING:
    from hulmo.app.session import Session

Points = NDArray[np.float64]

PAUSE = 250
"""Milliseconds after the last change of a setting until the line is laid anew."""

QUICK = 60_000
"""Vertices up to which points of a line that carries nothing heavy are laid at once."""


MOST_PLACES = 400
"""Places of one line on the screen."""


@dataclass
class _Sketch:
    # where a line runs on the screen, for as long as nothing has changed
    entry: SceneObject
    places: Points
    rows: NDArray[np.int32]
    at: NDArray[np.float64]
    eye: bytes = b""
    seen: NDArray[np.bool_] | None = None


class LineWork(QObject):
    """Which line is chosen, whether points are being added to it, and what has still to be laid.

    Signals
    -------
    changed
        Another line, or another state of it.
    """

    changed = pyqtSignal()

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._session = session
        self.ident = 0
        self.drawing = False
        self.point = -1
        """Number of the point that was pressed last; -1 for none."""
        self.moved: Points | None = None
        """Points as they are being dragged, metres about the origin of the body."""
        self._sketches: dict[int, _Sketch] = {}
        self._courses: dict[int, tuple[SceneObject, Trace]] = {}
        self._figures: dict[int, tuple[SceneObject, Measured]] = {}
        self._pending: tuple[str, dict[str, Any]] = ("", {})
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(PAUSE)
        self._later.timeout.connect(self._lay)
        session.changed.connect(self._changed)
        session.replaced.connect(self._forget)
        session.tool_changed.connect(self.end)

    @property
    def entries(self) -> tuple[SceneObject, ...]:
        """All lines of the project."""
        return tuple(entry for entry in self._session.project.objects if is_line(entry))

    @property
    def entry(self) -> SceneObject | None:
        """The chosen one."""
        return next((entry for entry in self.entries if entry.ident == self.ident), None)

    def body_of(self, entry: SceneObject) -> Body | None:
        """The body that a line lies on."""
        ident = line_of(entry).body
        return next((body for body in self._session.project.bodies if body.ident == ident), None)

    def choose(self, ident: int) -> None:
        """Choose a line; 0 for none."""
        self.ident, self.drawing, self.moved, self.point = ident, False, None, -1
        self.changed.emit()

    def end(self) -> None:
        """No more points are added."""
        self.drawing, self.moved = False, None
        self.changed.emit()

    def begin(self) -> None:
        """The next press begins a new line."""
        self.choose(0)
        self.drawing = True
        self.changed.emit()

    def add_point(self, body: Body, place: Points, corner: bool) -> None:
        """Put another point at the end of the line in work, or begin a line; `place` in metres of the world."""
        x, y, z = (float(value) for value in place)
        entry = self.entry
        if entry is None or not self.drawing:
            kind = self._session.tool.name
            if self._session.do(AddLine(kind, body.name, (LinePoint((x, y, z), corner),))):
                self.ident, self.drawing = self._session.project.objects[-1].ident, True
                self.changed.emit()
            return
        self.lay_points(entry, (*self.points_of(entry), LinePoint((x, y, z), corner)))

    def points_of(self, entry: SceneObject) -> tuple[LinePoint, ...]:
        """The points of a line, metres of the world."""
        line, body = line_of(entry), self.body_of(entry)
        origin = (0.0, 0.0, 0.0) if body is None else body.origin
        return tuple(
            LinePoint((p.at[0] + origin[0], p.at[1] + origin[1], p.at[2] + origin[2]), p.corner, p.width)
            for p in line.points
        )

    def lay_points(self, entry: SceneObject, points: tuple[LinePoint, ...]) -> None:
        """Give a line other points."""
        command = ChangeLine(entry.name, points)
        body, settings = self.body_of(entry), line_of(entry).settings
        heavy = body is None or body.vertices.count > QUICK or bool(settings.get("cut") or settings.get("relief"))
        self.moved = None
        if heavy:
            self._session.do_long(command)
        else:
            self._session.do(command)
        self.changed.emit()

    def set_width(self, width: float) -> None:
        """Give the point that was pressed last a width of its own, metres; 0: as the track says."""
        entry = self.entry
        if entry is None:
            return
        points = self.points_of(entry)
        if 0 <= self.point < len(points):
            old = points[self.point]
            new = LinePoint(old.at, old.corner, width)
            self.lay_points(entry, (*points[: self.point], new, *points[self.point + 1 :]))

    def set_values(self, values: Mapping[str, Any]) -> None:
        """Change what the chosen line carries, when the hand rests."""
        entry = self.entry
        if entry is None:
            return
        name, waiting = self._pending
        if name and name != entry.name:
            self._lay()
            waiting = {}
        self._pending = (entry.name, {**waiting, **values})
        self._later.start()

    def remove(self) -> None:
        """Take the chosen line away with all it carries."""
        entry = self.entry
        if entry is not None:
            self._later.stop()
            self._pending = ("", {})
            self._session.do_long(RemoveObject(entry.name))

    def marks(self, eye: Points, held: int = -1) -> list[LineMark]:
        """All lines as they are drawn for an eye at (3,) metres of the world."""
        out = []
        for entry in self.entries:
            body = self.body_of(entry)
            if body is None or not body.shown or not entry.shown:
                continue
            chosen = entry.ident == self.ident
            sketch = self._sketch(entry, body)
            if sketch is None:
                continue
            own = np.asarray(body.own(eye), np.float64)
            if sketch.seen is None or sketch.eye != own.tobytes():
                sketch.seen, sketch.eye = visible(body, sketch.rows, own), own.tobytes()
            line = line_of(entry)
            points = self.moved if chosen and self.moved is not None else line.array
            corner = np.array([place.corner for place in line.points], np.bool_)
            if points.shape[0] != corner.size:
                corner = np.zeros(points.shape[0], np.bool_)
            places = body.placed(points) if chosen else np.zeros((0, 3))
            out.append(
                LineMark(body.placed(sketch.places), sketch.seen, places, corner, held if chosen else -1, chosen)
            )
        return out

    def sketch(self, entry: SceneObject) -> tuple[Points, NDArray[np.float64]] | None:
        """Places of a line, metres of the world, and where among its points each lies."""
        body = self.body_of(entry)
        found = None if body is None else self._sketch(entry, body)
        return None if found is None or body is None else (body.placed(found.places), found.at)

    def measured(self, entry: SceneObject) -> Measured:
        """Figures of a line, taken once for as long as nothing changes.

        Raises
        ------
        InvalidInput
            It cannot be traced.
        """
        body = self.body_of(entry)
        if body is None:
            raise InvalidInput("The body that it lay on is gone.")
        found = self._figures.get(entry.ident)
        if found is None or found[0] is not entry:
            found = self._figures[entry.ident] = (entry, measured(body, entry, self._course(entry, body)))
        return found[1]

    def _course(self, entry: SceneObject, body: Body) -> Trace:
        found = self._courses.get(entry.ident)
        if found is None or found[0] is not entry:
            found = self._courses[entry.ident] = (entry, trace(Ground.of(body), entry))
        return found[1]

    def _sketch(self, entry: SceneObject, body: Body) -> _Sketch | None:
        moved = self.moved if entry.ident == self.ident else None
        found = self._sketches.get(entry.ident)
        if found is not None and found.entry is entry and moved is None:
            return found
        try:
            line: Line = line_of(entry)
        except InvalidInput:
            return None
        points = line.array if moved is None else moved
        if not points.size:
            return None
        corner = np.array([place.corner for place in line.points], np.bool_)
        if corner.size != points.shape[0]:
            corner = np.zeros(points.shape[0], np.bool_)
        if moved is not None:
            return _Sketch(entry, *sketched(Ground.of(body), points, corner, entry.kind == "outline"))
        made = self._sketches[entry.ident] = self._traced(entry, body) or _Sketch(
            entry, *sketched(Ground.of(body), points, corner, entry.kind == "outline")
        )
        return made

    def _traced(self, entry: SceneObject, body: Body) -> _Sketch | None:
        try:
            course = self._course(entry, body)
        except InvalidInput:
            return None
        keep = np.unique(
            np.append(np.arange(0, course.at.size, max(1, course.at.size // MOST_PLACES)), course.at.size - 1)
        )
        if course.closed:
            keep = np.append(keep, 0)
        rows = body.corners.triangles[course.triangle[keep], 0]
        at = course.at[keep]
        if course.closed:
            at[-1] = at[-2]
        return _Sketch(entry, course.places[keep], rows, at)

    def _changed(self, change: Change) -> None:
        moved = any(column == "position" for _, column, _ in change.rows)
        if moved or change.bodies or change.fields:
            self._forget()

    def _forget(self) -> None:
        if self._session.history.stroking:
            return
        for held in (self._sketches, self._courses, self._figures):
            held.clear()
        if self.ident and self.entry is None:
            self.ident, self.drawing = 0, False
            self.changed.emit()

    def _lay(self) -> None:
        name, values = self._pending
        if not name:
            return
        if self._session.busy:
            self._later.start()
            return
        self._pending = ("", {})
        self._later.stop()
        if any(entry.name == name for entry in self.entries):
            self._session.do_long(ChangeLine(name, None, values))
