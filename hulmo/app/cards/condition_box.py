"""One condition of a ground rule: what is measured, its settings, and its limits over the body's own values."""

import msgspec
import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from hulmo.app.fields.drop_down import DropDown
from hulmo.app.fields.limit_field import LimitField, Limits
from hulmo.app.fields.read_number import read_number
from hulmo.app.fields.settings_stack import SettingsStack
from hulmo.app.fields.value_edit import ValueEdit
from hulmo.app.icons import icon
from hulmo.app.label import Label
from hulmo.app.theme import Theme
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.measures import MEASURES, Measure
from hulmo.core.ground.rules import Condition
from hulmo.core.setting import Value

ENDS = (("low", "Wholly from"), ("high", "to"), ("low_soft", "Fades below over"), ("high_soft", "above over"))


JOINED = (
    ("and", "and", "Both must hold."),
    ("or", "or", "One of both is enough."),
    ("and_group", "and (", "Begins a group: all before it, and this group, must hold."),
    ("or_group", "or (", "Begins a group: all before it, or this group, is enough."),
)
"""Ways to join a condition with those before it: as in rules, as a word, and in full."""


def new_condition(measure: Measure) -> Condition:
    """A condition as it begins."""
    low, high, low_soft, high_soft = measure.first
    return Condition(measure.name, {}, low, high, low_soft, high_soft)


class ConditionBox(QWidget):
    """Shows one condition and tells what the user makes of it.

    Signals
    -------
    changed : Condition
        The user changed it.
    removed
        The user wants it gone.
    """

    changed = pyqtSignal(object)
    removed = pyqtSignal()

    def __init__(self, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._theme = theme
        self._condition = Condition("slope")
        self.join = _box(*((label, value) for value, label, _ in JOINED))
        for i, (_, _, text) in enumerate(JOINED):
            self.join.setItemData(i, text, Qt.ItemDataRole.ToolTipRole)
        self.join.setAccessibleName("Joined by")
        self.join.setFixedWidth(62)
        self.join.setToolTip(
            "and: both must hold. or: one is enough. With a bracket a group begins, which is joined in itself first."
        )
        self.join.activated.connect(lambda _: self._tell(join=str(self.join.currentData())))
        self.kind = _box(*((measure.label, measure.name) for measure in MEASURES.values()))
        self.kind.setAccessibleName("Measure")
        self.kind.setToolTip("What is measured at each vertex")
        for i, measure in enumerate(MEASURES.values()):
            self.kind.setItemData(i, measure.help, Qt.ItemDataRole.ToolTipRole)
        self.kind.activated.connect(self._another)
        self.kind.setMinimumWidth(60)
        self.invert = QCheckBox("not")
        self.invert.setToolTip("Holds where it otherwise would not")
        self.invert.clicked.connect(lambda on: self._tell(inverted=on))
        self.drop = QToolButton()
        self.drop.setFixedSize(22, 22)
        self.drop.setStyleSheet("padding: 0;")
        self.drop.setToolTip("Remove this condition")
        self.drop.setAccessibleName("Remove this condition")
        self.drop.clicked.connect(self.removed)
        self.to = DropDown()
        self.to.setAccessibleName("Distance to")
        self.to.setToolTip("A ground that the rules below lay, or a marked set of vertices")
        self.to.activated.connect(lambda _: self._set("to", str(self.to.currentData())))
        self.stack = SettingsStack(theme)
        self.stack.changed.connect(self._set)
        self.sheet = LimitField(theme)
        self.sheet.changed.connect(self._limited)
        self.edits: dict[str, QLineEdit] = {}
        grid = QGridLayout()
        grid.setSpacing(3)
        for place, (name, label) in enumerate(ENDS):
            edit = ValueEdit()
            edit.setObjectName("value")
            edit.setFixedWidth(50)
            edit.setAccessibleName(f"Limit: {label}")
            edit.setPlaceholderText("open" if not name.endswith("soft") else "0")
            edit.setToolTip("Empty leaves this side open" if not name.endswith("soft") else "How gradually it fades")
            edit.editingFinished.connect(lambda name=name: self._typed(name))
            self.edits[name] = edit
            caption = Label(label)
            caption.setObjectName("quiet")
            grid.addWidget(caption, place // 2, 2 * (place % 2))
            grid.addWidget(edit, place // 2, 2 * (place % 2) + 1)
        grid.setColumnStretch(0, 1)
        self.wrong = Label()
        self.wrong.setObjectName("wrong")
        self.wrong.setWordWrap(True)
        self.wrong.hide()
        self.open = QToolButton()
        self.open.setCheckable(True)
        self.open.setFixedSize(22, 22)
        self.open.setStyleSheet("padding: 0;")
        self.open.setAccessibleName("Settings of this condition")
        self.open.setToolTip("Settings of this condition, and its limits to type")
        self.open.toggled.connect(self._fold)
        self._inside = QWidget()
        inside = QVBoxLayout(self._inside)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(4)
        inside.addWidget(self.stack)
        inside.addLayout(grid)
        inside.addWidget(self.wrong)
        head = QHBoxLayout()
        head.setSpacing(4)
        head.addWidget(self.open)
        head.addWidget(self.join)
        head.addWidget(self.kind, 1)
        head.addWidget(self.invert)
        head.addWidget(self.drop)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 3, 0, 3)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self.to)
        column.addWidget(self.sheet)
        column.addWidget(self._inside)
        self._fold(False)
        self.set_theme(theme)

    @property
    def condition(self) -> Condition:
        """The present condition."""
        return self._condition

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        self.drop.setIcon(icon("remove", theme))
        self.stack.set_theme(theme)
        self.sheet.set_theme(theme)

    def show_condition(self, condition: Condition, first: bool, targets: list[tuple[str, str]]) -> None:
        """Show a condition; `targets` are what a distance can be asked to: (label, value)."""
        self._condition = condition
        measure = MEASURES[condition.measure]
        self.join.setVisible(not first)
        self.join.setCurrentIndex(self.join.findData(condition.join))
        self.kind.setCurrentIndex(self.kind.findData(condition.measure))
        self.invert.setChecked(condition.inverted)
        settings = tuple(setting for setting in measure.settings if setting.name != "to")
        self.stack.show_settings(measure.name, settings).set_values(
            {name: value for name, value in condition.values("rule").items() if name != "to"}
        )
        self.to.setVisible(condition.measure == "near")
        self.to.clear()
        for label, value in targets:
            self.to.addItem(label, value)
        self.to.setCurrentIndex(self.to.findData(condition.settings.get("to", "")))
        self._show_limits()

    def show_figures(self, figures: NDArray[np.floating]) -> None:
        """Show how the body's own values are spread."""
        measure = MEASURES[self._condition.measure]
        low, high = measure.low, measure.high
        figures = figures[np.abs(figures) < 1e5]
        if low == high:
            low, high = (float(figures.min()), float(figures.max())) if figures.size else (0.0, 10.0)
            given = [v for v in (self._condition.low, self._condition.high) if v is not None and abs(v) < 1e5]
            low, high = min((low, *given)), max((high, *given))
            margin = 0.05 * max(high - low, 0.1)
            low, high = low - (0.0 if measure.name == "near" else margin), high + margin
        self.sheet.show_figures(figures, low, high, measure.unit)

    def _fold(self, on: bool) -> None:
        self.open.setArrowType(Qt.ArrowType.DownArrow if on else Qt.ArrowType.RightArrow)
        self._inside.setVisible(on)

    def _show_limits(self) -> None:
        c = self._condition
        self.sheet.set_limits(Limits(c.low, c.high, c.low_soft, c.high_soft), c.inverted)
        for name, edit in self.edits.items():
            if not edit.hasFocus():
                self._show_limit(name)

    def _show_limit(self, name: str) -> None:
        value = getattr(self._condition, name)
        self.edits[name].setText("" if value is None else f"{value:.4g}")

    def _tell(self, **values: object) -> None:
        self._condition = msgspec.structs.replace(self._condition, **values)
        self._show_limits()
        self.changed.emit(self._condition)

    def _another(self, _: int) -> None:
        made = new_condition(MEASURES[str(self.kind.currentData())])
        self._condition = msgspec.structs.replace(made, join=self._condition.join)
        self.changed.emit(self._condition)

    def _set(self, name: str, value: Value) -> None:
        self._tell(settings={**self._condition.settings, name: value}, ident=0)

    def _limited(self, limits: Limits) -> None:
        self._tell(**limits._asdict())

    def _typed(self, name: str) -> None:
        text = self.edits[name].text().strip()
        value: float | None = None if not name.endswith("soft") else 0.0
        try:
            value = read_number(text, MEASURES[self._condition.measure].unit) if text else value
        except InvalidInput as error:
            self.wrong.setText(f"{error}.")
            self.wrong.show()
            self._show_limit(name)
            return
        self.wrong.hide()
        if value is not None and name.endswith("soft"):
            value = max(value, 0.0)
        if value != getattr(self._condition, name):
            self._tell(**{name: value})


def _box(*entries: tuple[str, str]) -> QComboBox:
    box = DropDown()
    box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
    box.setMinimumContentsLength(3)
    for label, value in entries:
        box.addItem(label, value)
    return box
