"""The conditions of a rule, one below the other."""

from typing import Any

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from hulmo.app.cards.condition_box import ConditionBox
from hulmo.app.spoken import number_row
from hulmo.app.theme import Theme
from hulmo.core.ground.marked import marked_names
from hulmo.core.ground.rules import Condition
from hulmo.core.mesh.body import Body
from hulmo.core.project import Project


class ConditionList(QWidget):
    """Shows conditions and says what the user makes of them.

    Parameters
    ----------
    label : str
        What screen readers call one of them; a number is added.
    tip : str
        Of the button that adds one.
    theme : Theme

    Signals
    -------
    changed : int, Condition
        Place, and the condition as it is to be.
    removed : int
        Place.
    asked
        For one more.
    """

    changed = pyqtSignal(int, object)
    removed = pyqtSignal(int)
    asked = pyqtSignal()

    def __init__(self, label: str, tip: str, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._label, self._theme = label, theme
        self.boxes: list[ConditionBox] = []
        self._rows = QVBoxLayout()
        self._rows.setSpacing(2)
        self.more = QPushButton("Add a condition")
        self.more.setToolTip(tip)
        self.more.clicked.connect(self.asked)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(self._rows)
        column.addWidget(self.more)

    @property
    def held(self) -> bool:
        """Whether a key would go into one of them."""
        return any(box.sheet.hasFocus() or any(e.hasFocus() for e in box.edits.values()) for box in self.boxes)

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        for box in self.boxes:
            box.set_theme(theme)

    def show_conditions(self, conditions: tuple[Condition, ...], project: Project, body: Body | None) -> None:
        """Show these; grounds of the project and sets of the body can be chosen in them."""
        while len(self.boxes) < len(conditions):
            self._add_box(len(self.boxes))
        targets = [("choose…", ""), *((name, name) for name in project.ground_names)]
        targets += [(f"set {name}", f"#{name}") for name in ([] if body is None else marked_names(body))]
        for place, box in enumerate(self.boxes):
            box.setVisible(place < len(conditions))
            if place < len(conditions):
                box.show_condition(conditions[place], place == 0, targets)
                number_row(box, self._label, place + 1)

    def show_figures(self, place: int, figures: np.ndarray[Any, Any]) -> None:
        """Show how the measure of a condition is spread over the body."""
        self.boxes[place].show_figures(figures)

    def _add_box(self, place: int) -> None:
        box = ConditionBox(self._theme)
        box.changed.connect(lambda condition: self.changed.emit(place, condition))
        box.removed.connect(lambda: self.removed.emit(place))
        self.boxes.append(box)
        self._rows.addWidget(box)
