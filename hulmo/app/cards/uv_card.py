"""The card that says how texture coordinates lie, and cures what is wrong with them."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.stages import UV_GROUP
from hulmo.app.theme import Theme
from hulmo.core.commands import Command, PackUv, RelaxUv, TurnBackUv
from hulmo.core.counted import counted
from hulmo.core.edit import Change
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import UV
from hulmo.core.mesh.placed_corners import placed_corners
from hulmo.core.progress import Progress
from hulmo.core.uv.faults import STRETCHED, faulty
from hulmo.core.uv.figures import UvFigures
from hulmo.core.uv.laid import Laid


@dataclass(frozen=True)
class Row:
    """One thing that can be wrong.

    Attributes
    ----------
    words : callable(UvFigures) -> str
        What is wrong; empty where nothing is.
    label, help : str
        Of the cure.
    cure : callable(name of the body) -> Command
    """

    words: Callable[[UvFigures], str]
    label: str
    help: str
    cure: Callable[[str], Command]


ROWS = {
    "mirrored": Row(
        lambda found: f"{counted(found.mirrored, 'triangle')} mirrored" if found.mirrored else "", "Turn back",
        "Mirrors charts that lie mirrored", TurnBackUv,
    ),
    "flat": Row(
        lambda found: f"{counted(found.flat, 'triangle')} without area" if found.flat else "", "Relax",
        "Gives them a place within their chart", lambda name: RelaxUv(name, "stretched", 20.0),
    ),
    "stretched": Row(
        lambda found: f"Stretched by up to {found.linf:.1f}" if found.linf > STRETCHED else "", "Relax",
        "Gives what is stretched its place anew, with the rest held", lambda name: RelaxUv(name, "stretched", 1.5),
    ),
    "outside": Row(
        lambda found: f"{counted(found.outside, 'triangle')} outside the image" if found.outside else "", "Pack",
        "Brings all charts into the image", lambda name: PackUv(name, even=False),
    ),
    "twice": Row(
        lambda found: f"{found.twice:.1%} of the image under several triangles" if found.twice >= 5e-4 else "", "Pack",
        "Lays charts beside each other", lambda name: PackUv(name, even=False),
    ),
}  # fmt: skip
"""By name, in the order in which they are best cured."""


class UvCard(Card):
    """Figures of the texture coordinates of the active body.

    Signals
    -------
    marked : object
        (K, 3, 3) corners of triangles to mark on the body, metres; None for none.
    """

    marked = pyqtSignal(object)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("How UV lies", "Of the first set of the active body.", parent)
        self._session = session
        self.look = QPushButton("Measure")
        self.look.setToolTip("Measure how the texture coordinates lie")
        self.look.clicked.connect(self.measure)
        self.figures = Label("")
        self.figures.setObjectName("quiet")
        self.figures.setWordWrap(True)
        self.figures.setAccessibleName("How texture coordinates lie")
        self.body.addWidget(self.look)
        self.body.addWidget(self.figures)
        self._measured: Body | None = None
        self._ill: dict[str, NDArray[np.int32]] = {}
        self._marked = False
        self.rows: dict[str, tuple[QWidget, Label, QPushButton]] = {}
        self.shows: dict[str, QPushButton] = {}
        for name, entry in ROWS.items():
            line, words, cure = QWidget(), Label(""), QPushButton(entry.label)
            show = self.shows[name] = QPushButton("Show")
            show.setToolTip("Mark them on the body")
            show.setAccessibleName(f"Show: {name}")
            show.setStyleSheet("padding: 3px 8px;")
            show.clicked.connect(lambda _, name=name: self._mark(name))
            words.setWordWrap(True)
            cure.setToolTip(entry.help)
            cure.setAccessibleName(f"{entry.label}: {entry.help}")
            cure.setStyleSheet("padding: 3px 8px;")
            cure.clicked.connect(lambda _, entry=entry: self._cure(entry))
            row = QHBoxLayout(line)
            row.setContentsMargins(0, 0, 0, 0)
            row.addWidget(words, 1)
            row.addWidget(show)
            row.addWidget(cure)
            self.body.addWidget(line)
            self.rows[name] = line, words, cure
        self._forget()
        for done in (session.tool_changed, session.replaced, session.job_changed, session.settings_changed):
            done.connect(self.refresh)
        session.changed.connect(self._changed)
        self.refresh()

    @classmethod
    def seen(cls, session: Session) -> bool:
        """Whether it is shown with what is in hand."""
        tool, body = session.tool, session.body
        has = body is not None and UV in body.corners.slots
        return has and (tool.group == UV_GROUP or tool.kind == "bake")

    def refresh(self) -> None:
        """Show it with what works on texture coordinates."""
        body = self._session.body
        has = body is not None and UV in body.corners.slots
        self.setVisible(self.seen(self._session))
        if (self._measured is not None and self._measured is not body) or (self.isHidden() and self._marked):
            self._forget()
        ready = not self._session.busy
        self.look.setEnabled(has and ready)
        for _, _, cure in self.rows.values():
            cure.setEnabled(ready)

    def measure(self) -> None:
        """Measure, and show what is wrong."""
        body = self._session.body
        if body is not None and UV in body.corners.slots:
            self._session.start_job(lambda progress: _measured(body, progress), lambda found: self._show(body, *found))

    def _mark(self, name: str) -> None:
        if self._measured is not None:
            self._marked = True
            self.marked.emit(placed_corners(self._measured, self._ill[name]))

    def _show(self, body: Body, found: UvFigures, ill: dict[str, NDArray[np.int32]]) -> None:
        self._measured, self._ill = body, ill
        charts = counted(found.charts, "chart")
        self.figures.setText(
            f"{charts}, {found.used:.0%} of the image used; a unit is {found.metres:.3g} m. "
            f"Stretch {found.l2:.2f}, at the most {found.linf:.2f}; 1 is none."
        )
        self.figures.show()
        for name, entry in ROWS.items():
            line, words, _ = self.rows[name]
            text = entry.words(found)
            words.setText(text)
            line.setVisible(bool(text))
            self.shows[name].setEnabled(bool(self._ill[name].size))

    def _cure(self, entry: Row) -> None:
        body = self._session.body
        if body is None:
            return
        self._session.do_long(entry.cure(body.name), self.measure)

    def _forget(self) -> None:
        self._measured, self._ill = None, {}
        if self._marked:
            self._marked = False
            self.marked.emit(None)
        self.figures.setText("")
        self.figures.hide()
        for line, words, _ in self.rows.values():
            words.setText("")
            line.hide()

    def _changed(self, change: Change) -> None:
        body = self._session.body
        slots = [ident for ident, _, column, _ in change.slots if column == UV]
        rows = [ident for ident, column, _ in change.rows if column == "position"]
        if body is None or body.ident in {*change.bodies, *slots, *rows} or change.fields:
            self._forget()
            self.refresh()


def _measured(body: Body, progress: Progress) -> tuple[UvFigures, dict[str, NDArray[np.int32]]]:
    progress.step(0.1, "measuring texture coordinates")
    laid = Laid.of(body, UV)
    return laid.figures(), faulty(laid)
