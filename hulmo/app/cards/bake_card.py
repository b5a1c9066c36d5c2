"""The card of images that are baked to files."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QGridLayout, QWidget

from hulmo.app.cards.files_card import FilesCard
from hulmo.app.fields.drop_down import DropDown
from hulmo.app.label import Label, plain_tip
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.bake.cage import cage, usual_reach
from hulmo.core.bake.maps import MAPS
from hulmo.core.edit import Change
from hulmo.core.mesh.corner_table import UV
from hulmo.core.setting import Choice, Number, Setting, Switch, number

RELIEF = "/relief"
"""Stands for the body's own relief layers where a finer body is named; no body has such a name."""

FIRST = ("base_colour", "normal", "roughness")
"""What is baked unless something else is wanted."""

FINE_ONLY = ("height", "missed")
"""What there is only of a finer body."""

SETTINGS: tuple[Setting, ...] = (
    Number("size", "Image", "px", 16, 8192, 2048.0, "Texels a side.", comfort=(256, 8192), curve=2.0, whole=True),
    Number("samples", "Samples", "a side", 1, 4, 1.0, "Of a texel: more make smoother images.", whole=True),
    Number("margin", "Margin", "px", 0, 512, 16.0, "Texels around charts that are filled.", comfort=(0, 64), whole=True),
    Number("reach", "Search within", "m", 0.0, 10_000.0, 0.0, "Of a finer body, or of what gives shelter: how far off it "
           "may lie; 0: a twentieth of the body's size, or a quarter.", comfort=(0.0, 10.0), curve=2.0),
    Number("rays", "Rays", "a texel", 1, 4096, 64.0, "For occlusion: more make it smoother.", comfort=(16, 512), curve=2.0,
           whole=True),
    Switch("atlas", "One image for all", False, "Bodies that were packed together share one set of images."),
    Switch("glb", "glTF with them", False, "A .glb beside them whose material is the images: every reader shows it."),
    Choice("kind", "Files", (("png", "PNG", "8 or 16 bits."), ("tiff", "TIFF", "8 or 16 bits."), ("exr", "EXR", "Floats.")),
           "png", "What is written; figures beyond 0 to 1 always as EXR or TIFF."),
    Choice("bits", "Bits", (("8", "8", "Smaller files."), ("16", "16", "No steps to be seen.")), "8", "Of PNG and TIFF."),
)  # fmt: skip


class BakeCard(FilesCard):
    """What is baked of the active body, how its texture coordinates lie, and how far it has come.

    Signals
    -------
    caged : object
        Lines of the cage to draw: outward and inward (L, 2, 3) float64, metres; None for none.
    """

    KINDS = ("bake",)

    caged = pyqtSignal(object)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        text = "Images of the active body, written while the work goes on."
        super().__init__("Bake", text, SETTINGS, session, theme, parent)
        self.figures = Label("")
        self.figures.setObjectName("quiet")
        self.figures.setWordWrap(True)
        self.figures.setAccessibleName("What is missing")
        self.source = DropDown()
        self.source.setAccessibleName("Surface that is baked")
        self.source.setToolTip("The body itself, or a finer one whose surface is baked onto it")
        self.source.activated.connect(lambda _: self.refresh())
        self.boxes = {entry.name: QCheckBox(entry.label) for entry in MAPS.values()}
        """What can be baked, by name."""
        grid = QGridLayout()
        grid.setSpacing(5)
        for i, (name, box) in enumerate(self.boxes.items()):
            box.setAccessibleName(MAPS[name].label)
            box.setToolTip(plain_tip(MAPS[name].help))
            box.setChecked(name in FIRST)
            box.clicked.connect(lambda _: self.refresh())
            grid.addWidget(box, i // 2, i % 2)
        self.cage = QCheckBox("Show the cage")
        self.cage.setToolTip("How far outward and inward of the body the finer surface is looked for")
        self.cage.clicked.connect(lambda _: self.refresh())
        self._caged: tuple[object, ...] | None = None
        self.begin.setText("Bake…")
        self.begin.setToolTip("Choose a folder, and bake")
        for part in (self.figures, self.source):
            self.body.addWidget(part)
        self.body.addLayout(grid)
        self.body.addWidget(self.cage)
        self.lay_below()
        session.settings_changed.connect(self.refresh)
        session.changed.connect(self._changed)
        self.refresh()

    @property
    def maps(self) -> list[str]:
        """Names of what is wanted."""
        return [name for name, box in self.boxes.items() if box.isChecked() and (name not in FINE_ONLY or self.fine)]

    @property
    def fine(self) -> str:
        """Name of the finer body that is baked; empty for the body itself."""
        return str(self.source.currentData() or "")

    def refresh(self) -> None:
        """Show what can be baked."""
        self.setVisible(self.seen(self._session))
        self._show_sources()
        self.panel.set_values(self.values)
        finer = bool(self.fine)
        self.panel.fields["reach"].setVisible(finer or self.boxes["shelter"].isChecked())
        for name in FINE_ONLY:
            self.boxes[name].setEnabled(finer)
        self.panel.fields["rays"].setVisible(self.boxes["occlusion"].isChecked())
        body = self._session.body
        has = body is not None and UV in body.corners.slots
        self.panel.fields["glb"].setEnabled(self.boxes["base_colour"].isChecked())
        self.begin.setEnabled(has and bool(self.maps) and not self._session.busy and not self.running)
        self.figures.setText("" if has else "The body has no texture coordinates: lay them, or unwrap it.")
        self.figures.setVisible(not has)
        self.cage.setVisible(finer)
        self._show_cage()

    def _show_cage(self) -> None:
        # worked out anew only where it is another one
        body = self._session.body
        wanted = (
            self.cage.isChecked() and bool(self.fine) and self.isVisibleTo(self.parentWidget()) and body is not None
        )
        asked = (body, body.remeshed, number(self.values, "reach")) if wanted and body is not None else None
        if asked == self._caged:
            return
        self._caged = asked
        reach = number(self.values, "reach")
        self.caged.emit(None if asked is None or body is None else cage(body, reach or usual_reach(body)))

    def _show_sources(self) -> None:
        active = self._session.body
        names = [body.name for body in self._session.project.bodies if body is not active]
        entries = [("The surface of the body itself", ""), *((f"The surface of {name}", name) for name in names)]
        if active is not None and active.layers:
            entries.insert(1, ("Its relief, onto it without", RELIEF))
        if entries == [(self.source.itemText(i), self.source.itemData(i)) for i in range(self.source.count())]:
            return
        chosen = self.source.currentData()
        self.source.clear()
        for text, name in entries:
            self.source.addItem(text, name)
        self.source.setCurrentIndex(max(self.source.findData(chosen), 0))
        self.source.setVisible(len(entries) > 1)

    def _changed(self, change: Change) -> None:
        moved = any(column == "position" for _, column, _ in change.rows)
        if moved and self._caged is not None:
            self._caged = None, None
        if change.fields or change.slots or change.bodies or (moved and self._caged is not None):
            self.refresh()
