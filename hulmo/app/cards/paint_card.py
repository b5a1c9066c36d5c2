"""The card of images that what is painted goes out to and comes in from."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.label import Label
from hulmo.app.main_button import MainButton
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.ground.painted_values import PAINTED
from hulmo.core.mesh.corner_table import UV
from hulmo.core.setting import Choice, Number, Setting, Switch, Text, Value, Values, complete

RELIEF = (("what", "relief"),)

SETTINGS: tuple[Setting, ...] = (
    Choice("what", "What", tuple((entry.name, entry.label, entry.help) for entry in PAINTED.values()), "grounds",
           "What the images hold."),
    Choice("by", "Laid", (("uv", "By UV", "By texture coordinates."),
                          ("above", "From above", "As seen from above, north at the top.")), "uv", "How they lie."),
    Text("into", "UV set", "", "Of texture coordinates; empty for the first.", only=(("by", "uv"),)),
    Number("size", "Image", "px", 16, 16_384, 1024.0, "Texels a side of what is written.", comfort=(256, 8192), curve=2.0,
           whole=True),
    Choice("bits", "Bits", (("16", "16", "Without loss."), ("8", "8", "For programs that know no more.")), "16",
           "Of what is written."),
    Number("low", "Black is", "m", -100_000.0, 100_000.0, -1.0, "Height that black stands for.", comfort=(-20.0, 0.0),
           only=RELIEF),
    Number("high", "White is", "m", -100_000.0, 100_000.0, 1.0, "Height that white stands for.", comfort=(0.0, 20.0),
           only=RELIEF),
    Switch("between", "Between texels", False, "A vertex takes what lies between texels, for images from elsewhere; "
           "otherwise what its own texel holds."),
    Switch("watch", "Follow", True, "Read them again whenever a program has saved them."),
)  # fmt: skip


class PaintCard(Card):
    """What is painted, written as images and read again.

    Signals
    -------
    write_asked, read_asked
        The user wants to choose a folder; a note or an image.
    followed
        Whether files are to be followed has changed.
    """

    KINDS = ("painted images",)

    write_asked = pyqtSignal()
    read_asked = pyqtSignal()
    followed = pyqtSignal()

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Painted images", "Take it through an image editor and back.", parent)
        self._session = session
        self.values: Values = complete(SETTINGS, {}, "painted images")
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(self._set)
        self.write = MainButton()
        self.write.setText("Write images…")
        self.write.setToolTip("Choose a folder; a note beside them says how they lie")
        self.write.clicked.connect(self.write_asked)
        self.read = QPushButton("Read…")
        self.read.setToolTip("Choose the note beside written images, or a single image")
        self.read.clicked.connect(self.read_asked)
        self.told = Label("")
        self.told.setObjectName("quiet")
        self.told.setWordWrap(True)
        self.told.setAccessibleName("What became of the images")
        row = QHBoxLayout()
        row.setSpacing(5)
        row.addWidget(self.write, 1)
        row.addWidget(self.read)
        self.body.addWidget(self.panel)
        self.body.addLayout(row)
        self.body.addWidget(self.told)
        for done in (session.tool_changed, session.replaced, session.job_changed, session.settings_changed):
            done.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if change.slots or change.bodies else None)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def say(self, text: str) -> None:
        """Say what became of it."""
        self.told.setText(text)
        self.told.setVisible(bool(text))

    def refresh(self) -> None:
        """Show what can be done."""
        self.setVisible(self.seen(self._session))
        self.panel.set_values(self.values)
        body = self._session.body
        ready = body is not None and not self._session.busy
        no_uv = body is not None and self.values["by"] == "uv" and UV not in body.corners.slots
        no_layer = self.values["what"] == "relief" and not self._session.layer
        self.write.setEnabled(ready and not no_uv and not no_layer)
        self.read.setEnabled(ready)
        self.told.setVisible(bool(self.told.text()) or no_uv or no_layer)
        if no_uv:
            self.told.setText("The body has no texture coordinates: lay them in Deliver, or take it from above.")
        elif no_layer:
            self.told.setText("No relief layer is in work: take one in hand in Sculpt.")
        elif self.told.text().startswith(("The body has no", "No relief layer")):
            self.say("")

    def _set(self, name: str, value: Value) -> None:
        self.values = {**self.values, name: value}
        self.refresh()
        if name == "watch":
            self.followed.emit()
