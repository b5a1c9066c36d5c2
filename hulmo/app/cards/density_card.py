"""The card of density by viewpoint: how many pixels a triangle takes, and what is never seen."""

from typing import Any

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.number_field import NumberField
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.care.seen_from import Seen, seen_from
from hulmo.core.commands import FitToViews
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.setting import Number

LIMIT = Number("pixels", "Largest triangle", "px", 1.0, 1_000_000.0, 120.0, "Pixels of a picture of 1920 by 1080.",
               comfort=(10, 1000), curve=2.0)  # fmt: skip

SIZE = (1920, 1080)


class DensityCard(Card):
    """Looks from all viewpoints together, marks what is too large or never seen, and fits the mesh to it.

    Signals
    -------
    marked : object
        (K, 3, 3) corners of triangles; None for none.
    figured : int, object
        Number of a body, and a figure of every triangle slot: pixels, -1 for what is never seen; None for none.
    look_asked : str
        The look that shows them.
    """

    KINDS = ("objects",)

    marked = pyqtSignal(object)
    figured = pyqtSignal(int, object)
    look_asked = pyqtSignal(str)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(
            "Density by viewpoint", "How many pixels a triangle takes from the viewpoints together.", parent
        )
        self._session = session
        self._found: tuple[Body, Seen] | None = None
        self.limit = NumberField(LIMIT, theme)
        self.limit.changed.connect(lambda _: self._tell())
        self.look = self._button("Look", "Look at the active body from all viewpoints")
        self.look.clicked.connect(self._look)
        self.told = Label("")
        self.told.setObjectName("quiet")
        self.told.setWordWrap(True)
        self.told.setAccessibleName("Density by viewpoint")
        self.large = self._button("Show large", "Mark triangles that take more pixels than that")
        self.large.clicked.connect(lambda: self._show("large"))
        self.hidden = self._button("Show unseen", "Mark what no viewpoint ever sees")
        self.hidden.clicked.connect(lambda: self._show("unseen"))
        self.refine = self._button(
            "Refine", "Halve triangles until none takes more pixels than that; guard and borders stay"
        )
        self.refine.clicked.connect(lambda: self._fit("refine"))
        self.thin = self._button(
            "Thin out", "Edges twice as long where no viewpoint ever looks; guard and borders stay"
        )
        self.thin.clicked.connect(lambda: self._fit("thin_out"))
        self.colours = self._button(
            "Show in colours", "Colours every triangle by its pixels, and what is never seen dark"
        )
        self.colours.clicked.connect(lambda: self.look_asked.emit("views"))
        grid = QGridLayout()
        grid.setSpacing(5)
        for i, button in enumerate((self.large, self.refine, self.hidden, self.thin)):
            grid.addWidget(button, i // 2, i % 2)
        for part in (self.limit, self.look, self.told):
            self.body.addWidget(part)
        self.body.addLayout(grid)
        self.body.addWidget(self.colours)
        session.tool_changed.connect(self.refresh)
        session.replaced.connect(self._forget)
        session.settings_changed.connect(self._tell)
        session.changed.connect(
            lambda change: self._forget() if change.rows or change.bodies or change.fields else None
        )
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.limit.set_theme(theme)

    def refresh(self) -> None:
        """Show what was found."""
        self.setVisible(self.seen(self._session))
        if self._session.tool.kind != "objects":
            self.marked.emit(None)
        self._tell()

    def _forget(self) -> None:
        if self._found is not None:
            self.figured.emit(self._found[0].ident, None)
        self._found = None
        self._tell()

    def _tell(self) -> None:
        views, body = self._session.project.viewpoints, self._session.body
        self.look.setEnabled(bool(views) and body is not None)
        found = self._found[1] if self._found is not None and self._found[0] is body else None
        for button in (self.large, self.hidden, self.refine, self.thin, self.colours):
            button.setEnabled(found is not None)
        if found is None or body is None:
            self.told.setText("Keep a view first." if not views else f"{len(views)} viewpoints. Press Look.")
            return
        live = body.corners.triangles[:, 0] >= 0
        seen = found.pixels[found.seen]
        large = int((seen > self.limit.value).sum())
        self.told.setText(
            f"Half of what is seen takes up to {float(np.median(seen)) if seen.size else 0:.3g} pixels a triangle, {large:,} "
            f"triangles more than {self.limit.value:.4g}; {int((live & ~found.seen).sum()):,} of {int(live.sum()):,} are "
            "never seen."
        )

    def _look(self) -> None:
        session, body = self._session, self._session.body
        if body is None:
            return
        views = session.project.viewpoints
        others = tuple(other for other in session.project.bodies if other.shown and other is not body)

        def then(found: Any) -> None:
            self._found = (body, found)
            self.figured.emit(body.ident, np.where(found.seen, found.pixels, -1.0).astype(np.float32))
            self._tell()

        def work(progress: Progress) -> Seen:
            return seen_from(body, views, SIZE, progress, others)

        session.start_job(work, then)

    def _show(self, what: str) -> None:
        if self._found is None:
            return
        body, found = self._found
        live = body.corners.triangles[:, 0] >= 0
        mask = found.seen & (found.pixels > self.limit.value) if what == "large" else live & ~found.seen
        corners = body.vertices["position"][body.corners.triangles[mask]]
        self.marked.emit(body.placed(corners))

    def _fit(self, way: str) -> None:
        body = self._session.body
        if body is not None:
            self.marked.emit(None)
            self._session.do_long(FitToViews(body.name, way, self.limit.value, *SIZE), self._look)

    def _button(self, text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        return button
