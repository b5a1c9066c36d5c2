"""Strewing props by brush."""

from PyQt6.QtCore import QObject, QPointF, QTimer

from hulmo.app.brush_ring import plain_ring
from hulmo.app.overlay import Marks
from hulmo.app.plain_words import plain_words
from hulmo.app.session import WAIT, Session
from hulmo.app.tools.controller import Controller, Pointing
from hulmo.core.commands import Strew
from hulmo.core.commands.strew import LiveStrew
from hulmo.core.edit import Change
from hulmo.core.errors import HulmoError
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.strewn import Strewn
from hulmo.core.setting import number

PAUSE = 30
"""Milliseconds for which props that were laid are gathered before they are shown."""


class StrewTool(Controller):
    """Props are set, thinned out or erased where one drags."""

    def __init__(self, session: Session, hand: Pointing, parent: QObject) -> None:
        super().__init__(session, hand, parent)
        self._live: LiveStrew | None = None
        self._body: Body | None = None
        self._before: Strewn | None = None
        self._show = QTimer(self)
        self._show.setSingleShot(True)
        self._show.setInterval(PAUSE)
        self._show.timeout.connect(self._tell)

    @property
    def held(self) -> bool:
        """See `Controller.held`."""
        return self._live is not None

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        session, body = self.session, self.session.body
        session.give_way()
        if session.busy:
            session.noticed.emit(WAIT)
            return True
        if body is None or self.hand.find(at) is None:
            return False
        session.history.drop_preview()
        try:
            self._live = LiveStrew(session.project, Strew(body.name, (), dict(session.props.values)))
        except HulmoError as error:
            session.noticed.emit(plain_words(str(error)))
            return True
        self._body, self._before = body, body.strewn
        self.move(at)
        return True

    def move(self, at: QPointF) -> None:
        """See `Controller.move`."""
        if self._live is None or self._body is None:
            return
        origin, direction = self.hand.ray(at)
        try:
            laid = self._live.add((*origin.tolist(), *direction.tolist()))
        except HulmoError as error:
            self.session.noticed.emit(plain_words(str(error)))
            return
        if laid:
            self._body.strewn = self._live.strewn
            if not self._show.isActive():
                self._show.start()
        self.hand.point()

    def release(self) -> None:
        """See `Controller.release`."""
        live, body = self._live, self._body
        self._live = self._body = None
        self._show.stop()
        if live is None or body is None:
            return
        body.strewn = self._before
        edit = live.result()
        if edit.deltas:
            self.session.history.commit(live.command(), edit)
            # the next stroke of the same settings is another scatter
            self.session.props.set("seed", float((int(number(self.session.props.values, "seed")) + 1) % 1_000_000))
        else:
            self._tell()

    def mark(self, marks: Marks) -> None:
        """See `Controller.mark`."""
        body, hit = self.session.body, self.hand.hit
        if body is None or not body.shown or self.hand.pointer is None or self.hand.turning:
            return
        if hit is None:
            marks.loose = self.hand.pointer
            return
        marks.ring = plain_ring(body, hit, number(self.session.props.values, "radius"), self.held)

    def _tell(self) -> None:
        self.session.history.tell(Change(fields={"body strewn"}))
