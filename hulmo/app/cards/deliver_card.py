"""The card of deliveries by profile: what would go wrong, with cures and waivers, and the button that writes it."""

import pathlib

from msgspec.structs import replace
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QHBoxLayout, QLineEdit, QPushButton, QVBoxLayout, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.drop_down import DropDown
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.label import Label
from hulmo.app.main_button import MainButton
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import Waive
from hulmo.core.counted import counted
from hulmo.core.deliver.profile import WITH_LEVELS, Profile, read_profile, shipped_profiles
from hulmo.core.deliver.write import Delivered, deliver_to
from hulmo.core.edit import Change
from hulmo.core.errors import HulmoError
from hulmo.core.ready import findings
from hulmo.core.ready.finding import Finding
from hulmo.core.ready.handover import hand_over
from hulmo.core.setting import Number, Setting, Switch, Value, Values, complete, number

SETTINGS: tuple[Setting, ...] = (
    Number("levels", "Coarser levels", "", 0, 5, 0.0, "Each with two fifths of the triangles of the one before it.",
           whole=True),
    Number("away", "First one from", "m", 0.0, 100_000.0, 0.0, "How far off the first coarser level does, with an error of "
           "no more than a pixel; each further one twice as far. 0: by triangles.", comfort=(0.0, 500.0), curve=2.0),
    Number("patch", "Patches", "m", 0.0, 10_000.0, 0.0, "Side of patches; 0: bodies stay whole.", comfort=(0.0, 200.0),
           curve=2.0),
    Switch("outlines", "Patches along outlines", False, "What each outline encloses is a patch, what lies outside another."),
    Number("borders", "Borders within", "m", 0.0, 1000.0, 0.0, "How far borders of patches may lie off: simplified once, "
           "from both sides and for all levels. 0: they stay as they are.", comfort=(0.0, 1.0), curve=2.0),
    Switch("page", "Page to hand over", False, "A readiness report and a web page that shows it, without a network."),
)  # fmt: skip

SHARE = 0.4
"""Of a level's triangles in the next one."""

MOST = 14
"""Rows that are shown at the most."""

OTHER, USUAL = "other", "metres-attributes"


class DeliverCard(Card):
    """What a target can take, whether it would get that, and all of it written at once.

    Signals
    -------
    asked
        The user wants to choose a folder to deliver into.
    levels_asked : bool
        Whether levels are to be seen in place of the bodies.
    profile_asked
        The user wants to choose a profile in a file.
    receive_asked
        The user wants to choose a delivered file to see beside the scene.
    marked : object
        (K, 3, 3) corners of triangles to mark in the scene, metres; None for none.
    led : object
        (3, 3) corners of a triangle to look at.
    """

    KINDS = ("deliver",)

    asked = pyqtSignal()
    levels_asked = pyqtSignal(bool)
    profile_asked = pyqtSignal()
    receive_asked = pyqtSignal()
    marked = pyqtSignal(object)
    led = pyqtSignal(object)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Deliver by profile", "Everything a target takes, in one folder.", parent)
        self._session = session
        self._read: dict[str, Profile] = {}
        self._name = USUAL
        self.folder: pathlib.Path | None = None
        """Where the last delivery went."""
        self._marked = False
        self.values: Values = complete(SETTINGS, {}, "deliver")
        self.profiles = DropDown()
        self.profiles.setAccessibleName("Delivery profile")
        self.profiles.setToolTip("What the target can take")
        self.profiles.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.profiles.setMinimumContentsLength(12)
        self.profiles.activated.connect(lambda _: self._chosen())
        self.about = Label("")
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(self._set)
        self.look = QPushButton("Check")
        self.look.setToolTip("Look for all that is known to go wrong with this profile")
        self.look.clicked.connect(self.check)
        self.levels = QPushButton("See levels")
        self.levels.setCheckable(True)
        self.levels.setToolTip(
            "Draw the levels of this profile in the scene, each from where it does; any change ends it"
        )
        self.levels.clicked.connect(self.levels_asked)
        self.told = Label("")
        both = QWidget()
        line = QHBoxLayout(both)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(4)
        line.addWidget(self.look)
        line.addWidget(self.levels)
        for label in (self.about, self.told):
            label.setObjectName("quiet")
            label.setWordWrap(True)
        self.told.setAccessibleName("Whether it is ready")
        self.list = QWidget()
        self._rows = QVBoxLayout(self.list)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(4)
        self.write = MainButton("Deliver…")
        self.write.setToolTip("Choose a folder, and write everything into it")
        self.write.clicked.connect(self.asked)
        self.compare = QPushButton("A file beside the scene…")
        self.compare.setToolTip("Draw a delivered file by what stands in it, over the scene as it is seen now")
        self.compare.clicked.connect(self.receive_asked)
        for part in (self.profiles, self.about, self.panel, both, self.told, self.list, self.write, self.compare):
            self.body.addWidget(part)
        for done in (session.tool_changed, session.replaced, session.job_changed):
            done.connect(self.refresh)
        session.replaced.connect(self._forget)
        session.changed.connect(self._changed)
        self._forget()
        self.refresh()

    @property
    def profile(self) -> Profile:
        """The one that is chosen, with levels and patches as they are set."""
        chosen = self._read[self._name]
        count, away = round(number(self.values, "levels")), number(self.values, "away")
        levels = tuple(away * 2.0**i if away else SHARE ** (i + 1) for i in range(count))
        by = ("distance" if away else "share") if count else chosen.levels_by
        made = replace(chosen, levels=levels or chosen.levels, levels_by=by)
        patch, lines = number(self.values, "patch"), bool(self.values["outlines"])
        if patch or lines:
            patch = 0.0 if lines else patch
            made = replace(made, patch=patch, patch_triangles=0, along_outlines=lines, six_sides=False)
        if made.cuts and number(self.values, "borders"):
            made = replace(made, borders=number(self.values, "borders"))
        together = not made.cuts and not made.collision and (not made.levels or made.format in WITH_LEVELS)
        return made if together else replace(made, files="many")

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def refresh(self) -> None:
        """Show what can be done."""
        self.setVisible(self.seen(self._session))
        if self.isHidden():
            self._unmark()
            self._no_levels()
        if not self.isVisibleTo(self.parentWidget()):
            return
        if not self._read:  # not before they are needed
            self._read = {name: read_profile(name) for name in shipped_profiles()}
            self._show_profiles()
        ready = bool(self._session.project.bodies) and not self._session.busy
        self.look.setEnabled(ready)
        self.levels.setEnabled(ready and (bool(self.profile.levels) or self.levels.isChecked()))
        self.write.setEnabled(ready)
        self.compare.setEnabled(ready)
        self.list.setEnabled(ready)
        self.about.setText(self._read[self._name].about)
        self.panel.fields["away"].setVisible(number(self.values, "levels") > 0)
        self.panel.fields["borders"].setVisible(self.profile.cuts)

    def add_profile(self, path: pathlib.Path) -> None:
        """Take a profile of the user's own."""
        try:
            self._read[str(path)] = read_profile(str(path))
            self._name = str(path)
        except HulmoError as error:
            self._session.noticed.emit(str(error))
        self._show_profiles()
        self.refresh()

    def check(self) -> None:
        """Look for all that is known to go wrong."""
        project, profile = self._session.project, self.profile
        self._session.start_job(lambda progress: findings(project, profile, progress), lambda found: self._show(*found))

    def deliver(self, folder: pathlib.Path) -> None:
        """Write everything into a folder."""
        project, profile = self._session.project, self.profile
        write = hand_over if self.values["page"] else deliver_to
        self._session.preview.settle(
            lambda: self._session.start_job(lambda progress: write(project, profile, folder, progress), self._delivered)
        )

    def _delivered(self, done: Delivered) -> None:
        self.folder = done.folder
        size = sum((done.folder / name).stat().st_size for name in done.files)
        worst = max((level.error for piece in done.pieces for level in piece.told), default=0.0)
        levels = f"; levels lie up to {worst:.3g} m off" if worst else ""
        stay = sum(piece.kept is not None for piece in done.pieces)
        kept = f" {counted(stay, 'piece')} of {len(done.pieces)} stayed as delivered before." if stay else ""
        self.told.setText(
            f"Wrote {counted(len(done.files), 'file')}, {size / 1e6:,.1f} MB, to {done.folder}{levels}.{kept}"
        )

    def _show(self, found: list[Finding], waived: list[Finding]) -> None:
        self._clear()
        failing = sum(entry.fails for entry in found)
        self.told.setText(
            ("Ready to be delivered." if not failing else f"{counted(failing, 'thing')} to be mended first.")
            + (f" {counted(len(waived), 'thing')} waived." if waived else "")
            + (f" Shown are {MOST} of {len(found)}." if len(found) > MOST else "")
        )
        for entry in found[:MOST]:
            self._rows.addWidget(self._row(entry))

    def _row(self, entry: Finding) -> QWidget:
        row = QWidget()
        column = QVBoxLayout(row)
        column.setContentsMargins(0, 2, 0, 2)
        column.setSpacing(2)
        words = Label(f"{'● ' if entry.fails else '○ '}{f'{entry.body}: ' if entry.body else ''}{entry.words}")
        words.setWordWrap(True)
        words.setToolTip(f"{entry.advice}.")
        column.addWidget(words)
        line = QHBoxLayout()
        line.setSpacing(4)
        why = QLineEdit()
        why.setPlaceholderText("Why it is meant; Enter waives it")
        why.setAccessibleName(f"Reason to waive: {entry.words}")
        why.hide()
        why.returnPressed.connect(lambda: self._waive(entry, why.text()))
        if entry.marks is not None and len(entry.marks):
            show = QPushButton("Show")
            show.setToolTip("Mark it in the scene, and look at the worst")
            show.setStyleSheet("padding: 2px 8px;")
            show.clicked.connect(lambda: self._mark(entry))
            line.addWidget(show)
        if entry.cure is not None:
            cure = QPushButton("Cure")
            cure.setToolTip(f"{entry.advice}.")
            cure.setStyleSheet("padding: 2px 8px;")
            cure.clicked.connect(lambda: self._cure(entry))
            line.addWidget(cure)
        else:
            advice = Label(f"{entry.advice}.")
            advice.setObjectName("quiet")
            advice.setWordWrap(True)
            line.addWidget(advice, 1)
        waive = QPushButton("Waive")
        waive.setToolTip("Say why it is meant; it is not asked about again")
        waive.setStyleSheet("padding: 2px 8px;")
        waive.clicked.connect(lambda: _ask(why))
        line.addWidget(waive)
        line.addStretch(0 if entry.cure is None else 1)
        column.addLayout(line)
        column.addWidget(why)
        return row

    def _mark(self, entry: Finding) -> None:
        if entry.marks is not None:
            self._marked = True
            self.marked.emit(entry.marks)
            self.led.emit(entry.marks[0])

    def _unmark(self) -> None:
        if self._marked:
            self._marked = False
            self.marked.emit(None)

    def _cure(self, entry: Finding) -> None:
        if entry.cure is not None:
            self._session.do_long(entry.cure, self.check)

    def _waive(self, entry: Finding, reason: str) -> None:
        if self._session.do(Waive(entry.check, entry.body, reason)):
            self.check()

    def _clear(self) -> None:
        while self._rows.count():
            item = self._rows.takeAt(0)
            widget = None if item is None else item.widget()
            if widget is not None:
                widget.hide()
                widget.deleteLater()

    def _no_levels(self) -> None:
        if self.levels.isChecked():
            self.levels.setChecked(False)
            self.levels_asked.emit(False)

    def _forget(self) -> None:
        self._no_levels()
        self._clear()
        self._unmark()
        self.told.setText("")

    def _changed(self, change: Change) -> None:
        if change.rows or change.slots or change.bodies or change.fields:
            self._forget()
        self.refresh()

    def _show_profiles(self) -> None:
        self.profiles.clear()
        for name, profile in self._read.items():
            self.profiles.addItem(profile.name, name)
        self.profiles.addItem("Another, in a file…", OTHER)
        self.profiles.setCurrentIndex(self.profiles.findData(self._name))

    def _chosen(self) -> None:
        name = str(self.profiles.currentData())
        if name == OTHER:
            self.profiles.setCurrentIndex(self.profiles.findData(self._name))
            self.profile_asked.emit()
            return
        self._name = name
        self._forget()
        self.refresh()

    def _set(self, name: str, value: Value) -> None:
        self.values = {**self.values, name: value}
        self._no_levels()
        self.refresh()


def _ask(field: QLineEdit) -> None:
    field.setVisible(not field.isVisible())
    field.setFocus()
