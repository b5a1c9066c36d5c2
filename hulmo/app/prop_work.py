"""What is being done with props: how they are strewn, and which are in hand."""

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from hulmo.core.commands import ChangeStrewn
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.strewn import Strewn
from hulmo.core.props.strew import SETTINGS
from hulmo.core.setting import Value, Values, complete

if TYPE_CHECKING:
    from hulmo.app.session import Session


class PropWork(QObject):
    """Settings of the strewing brush, and the chosen props of the active body.

    Signals
    -------
    changed
        Settings or choice are others.
    """

    changed = pyqtSignal()

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._session = session
        self.values: Values = complete(SETTINGS, {}, "strew")
        self._chosen: tuple[int, ...] = ()
        self._of: Strewn | None = None
        session.replaced.connect(lambda: self.choose(()))

    def set(self, name: str, value: Value) -> None:
        """Change a setting of the brush."""
        setting = next(entry for entry in SETTINGS if entry.name == name)
        self.values = {**self.values, name: setting.check(value, "strew")}
        self.changed.emit()

    @property
    def body(self) -> Body | None:
        """The body whose props are worked on."""
        return self._session.body

    @property
    def strewn(self) -> Strewn:
        """Its props."""
        body = self.body
        return body.strewn if body is not None and body.strewn is not None else Strewn.none()

    @property
    def chosen(self) -> tuple[int, ...]:
        """Places of the chosen props in the list of the body; the one that was pressed first."""
        strewn = self.strewn
        if self._of is not None and strewn.count != self._of.count:
            return ()
        return tuple(row for row in self._chosen if row < strewn.count and strewn.there[row])

    def choose(self, rows: tuple[int, ...]) -> None:
        """Choose props."""
        self._chosen, self._of = rows, self.strewn
        self.changed.emit()

    def do(self, key: str = "", **values: object) -> None:
        """Change the chosen ones; `key`: steps of the same dragged control become one."""
        body, rows = self.body, self.chosen
        if body is None or not rows:
            return
        command = ChangeStrewn(body.name, rows, **values)  # type: ignore[arg-type]
        self._session.give_way()
        if key:
            self._session.drags.merged(command, key)
        else:
            self._session.do(command)
        if values.get("remove"):
            self.choose(())
        self.changed.emit()

    def like_it(self) -> None:
        """Choose all of the same prop as the chosen one."""
        rows, strewn = self.chosen, self.strewn
        if rows:
            same = np.flatnonzero(strewn.there & (strewn.prop == strewn.prop[rows[0]]))
            self.choose((rows[0], *(int(row) for row in same if row != rows[0])))
