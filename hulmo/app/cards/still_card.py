"""The card of pictures that are drawn to files."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QWidget

from hulmo.app.cards.files_card import FilesCard
from hulmo.app.fields.drop_down import DropDown
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.setting import Number, Setting, Switch, number

SETTINGS: tuple[Setting, ...] = (
    Number("width", "Width", "px", 16, 16384, 1920.0, "Of the picture.", comfort=(320, 8192), curve=2.0, whole=True),
    Number("height", "Height", "px", 16, 16384, 1080.0, "Of the picture.", comfort=(240, 8192), curve=2.0, whole=True),
    Number("samples", "Samples", "a side", 1, 8, 2.0, "Of a pixel: more make smoother edges.", whole=True),
    Number("count", "Pictures", "", 2, 10000, 60.0, "Of a turn or a flight.", comfort=(2, 600), curve=2.0, whole=True),
    Switch("channels", "Channels as EXR", False, "Linear light, distance, normals, water, prop numbers and ground shares, in "
           "a file beside each picture."),
)  # fmt: skip

HERE, TURN, FLIGHT = "here", "turn", "flight"


class StillCard(FilesCard):
    """What is drawn, how large, and how far it has come.

    Signals
    -------
    quick_asked
        The user wants a quick picture.
    """

    KINDS = ("still",)

    quick_asked = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        text = "Pictures in the look that is shown, drawn to files while the work goes on."
        super().__init__("Still", text, SETTINGS, session, theme, parent)
        self.of = DropDown()
        self.of.setAccessibleName("What is drawn")
        self.of.setToolTip(
            "One picture, a turn round what you look at, or a flight through the viewpoints in their order"
        )
        self.of.activated.connect(lambda _: self.refresh())
        self.begin.setText("Draw…")
        self.begin.setToolTip("Choose a file, and draw")
        self.quick = QPushButton("Quick 640 × 480…")
        self.quick.setToolTip("What you see now, at once and small")
        self.quick.clicked.connect(self.quick_asked)
        self.body.addWidget(self.of)
        self.lay_below(self.quick)
        session.changed.connect(lambda change: self.refresh() if change.fields & {"objects", "bodies"} else None)
        self.refresh()

    @property
    def wanted(self) -> tuple[str, str]:
        """`HERE`, `TURN`, `FLIGHT`, or "view" with its name."""
        kind, name = self.of.currentData() or (HERE, "")
        return str(kind), str(name)

    def refresh(self) -> None:
        """Show what can be drawn."""
        self.setVisible(self.seen(self._session))
        views = [view.name for view in self._session.project.viewpoints]
        entries = [("What you see now", (HERE, "")), *((f"From {name}", ("view", name)) for name in views)]
        entries.append(("A turn round what you see", (TURN, "")))
        if len(views) > 1:
            entries.append((f"A flight through {len(views)} viewpoints", (FLIGHT, "")))
        if entries != [(self.of.itemText(i), self.of.itemData(i)) for i in range(self.of.count())]:
            chosen = self.of.currentData()
            self.of.clear()
            for text, what in entries:
                self.of.addItem(text, what)
            known = [what for _, what in entries]
            self.of.setCurrentIndex(known.index(chosen) if chosen in known else 0)
        ratio = next(
            (view.ratio for view in self._session.project.viewpoints if ("view", view.name) == self.wanted), 0.0
        )
        if ratio:  # the viewpoint says how high a picture is
            high = min(max(round(number(self.values, "width") / ratio), 16), 16384)
            self.values = {**self.values, "height": float(high)}
        self.panel.fields["height"].setEnabled(not ratio)
        self.panel.set_values(self.values)
        self.panel.fields["count"].setVisible(self.wanted[0] in (TURN, FLIGHT))
        able = bool(self._session.project.bodies) and not self._session.busy and not self.running
        self.begin.setEnabled(able)
        self.quick.setEnabled(bool(self._session.project.bodies))
