"""The card of ground rules: their list, and the one that is chosen with its conditions."""

import pathlib

import msgspec
import numpy as np
from PyQt6.QtCore import QSize, Qt, QTimer
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QComboBox,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QMenu,
    QPushButton,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from hulmo.app.cards.card import Card
from hulmo.app.cards.condition_box import new_condition
from hulmo.app.cards.condition_list import ConditionList
from hulmo.app.cards.layer_row import LayerRow
from hulmo.app.fields.drop_down import DropDown
from hulmo.app.fields.number_field import NumberField
from hulmo.app.files import ask_json, ask_save
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import MeasureRules, SetRules, UseRules
from hulmo.core.edit import Change
from hulmo.core.errors import HulmoError
from hulmo.core.ground.evaluate import sample_figures
from hulmo.core.ground.hand import hand_share
from hulmo.core.ground.marked import marked_names
from hulmo.core.ground.measures import MEASURES
from hulmo.core.ground.rule_sets import encoded_rule_set, shipped_rule_sets
from hulmo.core.ground.rules import Condition, Rule, problems
from hulmo.core.io.safe_write import safe_write
from hulmo.core.mesh.body import Body
from hulmo.core.setting import Number

SAMPLE = 20_000
"""Vertices that a histogram is made of."""

LARGE = 200_000
"""Vertices from which rules are laid in a thread."""

ROW = 25

_STRENGTH = Number("strength", "Strength", "%", 0.0, 100.0, 100.0, "Share of its ground that the rule lays.")


class RuleCard(Card):
    """Ground rules of the active body; shown with Ground rules in hand."""

    KINDS = ("rules",)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Ground rules", "Upper ones lie over lower ones, hand paint over all.", parent)
        self._session = session
        self._theme = theme
        self._chosen = 0
        self._wanted: tuple[str, tuple[Rule, ...], str] | None = None
        self.list = QListWidget()
        self.list.setAccessibleName("Ground rules")
        self.list.setToolTip("Upper rules lie over lower ones; below are the settings of the chosen one")
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(self._choose)
        self.words = Label()
        self.words.setObjectName("quiet")
        self.words.setWordWrap(True)
        self.ground = DropDown()
        self.ground.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.ground.setAccessibleName("Ground of the rule")
        self.ground.setToolTip("Which ground the rule lays")
        self.ground.activated.connect(lambda _: self._replace(ground=str(self.ground.currentData())))
        self.strength = NumberField(_STRENGTH, theme)
        self.strength.changed.connect(lambda value: self._replace("strength", strength=value / 100.0))
        self.conditions = ConditionList("Condition", "Narrow the rule down, or widen it, by one more measure", theme)
        self.conditions.changed.connect(self._set_condition)
        self.conditions.removed.connect(self._drop_condition)
        self.conditions.asked.connect(self._add_condition)
        self.buttons: dict[str, QToolButton] = {}
        row = QHBoxLayout()
        row.setSpacing(0)
        for name, label, text in (
            ("add", "Add", "Add a rule on top for the ground in hand"),
            ("raise", "Raise", "Lay the rule after the next one"),
            ("down", "Lower", "Lay the rule before the one below"),
            ("remove", "Remove", "Remove the rule"),
        ):
            button = QToolButton()
            button.setText(label)
            button.setStyleSheet("padding: 3px 3px;")
            button.setToolTip(text)
            button.setAccessibleName(f"{label} rule")
            button.clicked.connect(lambda _, name=name: self._press(name))
            self.buttons[name] = button
            row.addWidget(button)
        row.addStretch(1)
        self.sets = QToolButton()
        self.sets.setText("Sets")
        self.sets.setStyleSheet("padding: 3px 12px 3px 3px;")
        self.sets.setAccessibleName("Rule sets")
        self.sets.setToolTip("Use a shared set of rules, or share these")
        self.sets.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self._menu = QMenu(self)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.sets.setMenu(self._menu)
        row.addWidget(self.sets)
        self.measure = QPushButton("Measure again")
        self.measure.setToolTip("Shelter and distances are taken once; take them again after the surface has changed")
        self.measure.clicked.connect(self._measure)
        self.follow = QCheckBox("Measure by itself when the hand rests")
        self.follow.setToolTip(
            "Shelter and distances follow the shape in the background; your next stroke interrupts it"
        )
        self.follow.clicked.connect(session.measures.turn)
        self._detail = QWidget()
        detail = QVBoxLayout(self._detail)
        detail.setContentsMargins(0, 0, 0, 0)
        detail.setSpacing(4)
        detail.addWidget(self.ground)
        detail.addWidget(self.strength)
        detail.addWidget(self.conditions)
        self.body.addWidget(self.list)
        self.body.addLayout(row)
        self.body.addWidget(self.words)
        self.body.addWidget(self._detail)
        self.body.addWidget(self.measure)
        self.body.addWidget(self.follow)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(30)
        self._soon.timeout.connect(self._send)
        session.tool_changed.connect(self.refresh)
        session.settings_changed.connect(self._body_changed)
        session.replaced.connect(self.refresh)
        session.changed.connect(self._changed)
        session.job_changed.connect(self._job_changed)
        self._shown_body: Body | None = None
        self.refresh()

    @property
    def rules(self) -> tuple[Rule, ...]:
        """Rules of the active body, as they are or are about to be."""
        body = self._session.body
        if body is None:
            return ()
        return self._wanted[1] if self._wanted is not None and self._wanted[0] == body.name else body.rules

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        self.strength.set_theme(theme)
        self.conditions.set_theme(theme)
        self.refresh()

    def refresh(self) -> None:
        """Show the rules of the active body, with Ground rules in hand."""
        here = self.seen(self._session)
        self.setVisible(here)
        if not here:
            return
        body, rules = self._session.body, self.rules
        self._shown_body = body
        self._chosen = min(self._chosen, max(0, len(rules) - 1))
        self.list.blockSignals(True)
        self.list.clear()
        for place in reversed(range(len(rules))):
            rule = rules[place]
            row = LayerRow(rule.ground, self._told(rule), rule.shown, False, self._theme)
            row.eye_pressed.connect(lambda place=place, rule=rule: self._set_rule(place, shown=not rule.shown))
            row.hide_lock()
            item = QListWidgetItem()
            item.setSizeHint(QSize(10, ROW))
            self.list.addItem(item)
            self.list.setItemWidget(item, row)
        self.list.setCurrentRow(len(rules) - 1 - self._chosen)
        self.list.blockSignals(False)
        self.list.setFixedHeight(ROW * min(max(len(rules), 1), 6) + 6)
        self.list.setVisible(bool(rules))
        self._show_chosen()
        self._tell_state()
        for name, on in (
            ("add", body is not None), ("remove", bool(rules)), ("raise", self._chosen < len(rules) - 1),
            ("down", self._chosen > 0 and bool(rules)),
        ):  # fmt: skip
            self.buttons[name].setEnabled(on)
        self.sets.setEnabled(body is not None)
        kept = {c.measure for rule in rules for c in rule.conditions if MEASURES[c.measure].kept}
        self.measure.setVisible(bool(kept))
        self.follow.setVisible(bool(kept))
        self.follow.setChecked(self._session.measures.on)

    def _told(self, rule: Rule) -> str:
        words = [MEASURES[c.measure].label.split(" ")[0].lower() for c in rule.conditions[:2]]
        return ", ".join(words) + (" …" if len(rule.conditions) > 2 else "") if words else "everywhere"

    def _tell_state(self) -> None:
        body, project = self._session.body, self._session.project
        text = ""
        if body is None:
            text = "There is no body yet. Build a base form first."
        elif not self.rules:
            text = f"No rules yet: {project.grounds[body.base].name} lies everywhere but where paint is."
        else:
            wrong = problems(self.rules, project.ground_names, marked_names(body))
            text = " ".join(wrong)
            if not wrong and body.vertices.count and float(hand_share(body, slice(None)).mean()) > 0.98:
                text = "All of this body is painted by hand, so no rule shows. Give it back with the brush Give back."
        self.words.setText(text)
        self.words.setVisible(bool(text))

    def _show_chosen(self) -> None:
        rules, project = self.rules, self._session.project
        self._detail.setVisible(bool(rules))
        if not rules:
            return
        rule = rules[self._chosen]
        self.ground.clear()
        for ground in project.grounds:
            self.ground.addItem(f"Lays {ground.name}", ground.name)
        if rule.ground not in project.ground_names:
            self.ground.addItem(f"{rule.ground} is gone", rule.ground)
        self.ground.setCurrentIndex(self.ground.findData(rule.ground))
        self.strength.set_value(100.0 * rule.strength)
        self.conditions.show_conditions(rule.conditions, project, self._session.body)
        for place, condition in enumerate(rule.conditions):
            self.conditions.show_figures(place, self._figures(condition))

    def _figures(self, condition: Condition) -> np.ndarray:
        body = self._session.body
        if body is None or not body.vertices.count:
            return np.empty(0)
        if MEASURES[condition.measure].kept and condition.column not in body.vertices:
            return np.empty(0)
        try:
            return sample_figures(condition, body, self._session.project.ground_names, SAMPLE)
        except HulmoError:
            return np.empty(0)

    def _choose(self, row: int) -> None:
        if row >= 0:
            self._chosen = len(self.rules) - 1 - row
            self._show_chosen()
            for name, on in (("raise", self._chosen < len(self.rules) - 1), ("down", self._chosen > 0)):
                self.buttons[name].setEnabled(on)

    def _set_rule(self, place: int, **values: object) -> None:
        rules = list(self.rules)
        rules[place] = msgspec.structs.replace(rules[place], **values)
        self._want(tuple(rules), f"rule {place} {' '.join(values)}")
        self.refresh()

    def _replace(self, control: str = "", **values: object) -> None:
        rules = list(self.rules)
        rules[self._chosen] = msgspec.structs.replace(rules[self._chosen], **values)
        self._want(tuple(rules), control or "rule")
        if not control:
            self.refresh()

    def _set_condition(self, place: int, condition: Condition) -> None:
        if not self.rules or place >= len(self.rules[self._chosen].conditions):
            return
        conditions = list(self.rules[self._chosen].conditions)
        old = conditions[place]
        again = old.measure != condition.measure or old.settings != condition.settings
        # the same figures keep their number, and with it what was taken once
        conditions[place] = msgspec.structs.replace(condition, ident=0 if again else old.ident)
        self._replace(f"condition {self._chosen} {place}", conditions=tuple(conditions))
        if again:
            self._show_chosen()

    def _drop_condition(self, place: int) -> None:
        if not self.rules or place >= len(self.rules[self._chosen].conditions):
            return
        conditions = list(self.rules[self._chosen].conditions)
        del conditions[place]
        self._replace(conditions=tuple(conditions))

    def _add_condition(self) -> None:
        if not self.rules:
            return
        conditions = self.rules[self._chosen].conditions
        used = {condition.measure for condition in conditions}
        measure = next((m for m in MEASURES.values() if m.name not in used and not m.kept), MEASURES["noise"])
        self._replace(conditions=(*conditions, new_condition(measure)))

    def _press(self, name: str) -> None:
        rules, at = list(self.rules), self._chosen
        if name == "add":
            ground = self._session.project.grounds[self._session.ground].name
            rules.append(Rule(ground, (new_condition(MEASURES["slope"]),)))
            at = len(rules) - 1
        elif name == "remove":
            del rules[at]
            at = max(0, at - 1)
        else:
            other = at + (1 if name == "raise" else -1)
            rules[at], rules[other] = rules[other], rules[at]
            at = other
        self._want(tuple(rules), name)
        self._chosen = at
        self.refresh()

    def _want(self, rules: tuple[Rule, ...], control: str) -> None:
        body = self._session.body
        if body is not None:
            self._wanted = (body.name, rules, control)
            if not self._soon.isActive():
                self._soon.start()

    def _send(self) -> None:
        if self._wanted is None or self._session.busy:
            return
        name, rules, control = self._wanted
        self._wanted = None
        body = next((entry for entry in self._session.project.bodies if entry.name == name), None)
        if body is None:
            return
        fresh = {
            c.measure
            for rule in rules
            for c in rule.conditions
            if MEASURES[c.measure].kept and c.column not in body.vertices
        }
        if body.vertices.count > LARGE or fresh:
            self._session.do_long(SetRules(name, rules))
        elif not self._session.drags.merged(SetRules(name, rules), f"rules {control}"):
            self.refresh()

    def _job_changed(self) -> None:
        if not self._session.busy and self._wanted is not None:
            self._soon.start()

    def _body_changed(self) -> None:
        if self._session.body is not self._shown_body:
            self.refresh()

    def _changed(self, change: Change) -> None:
        if self._session.tool.kind == "rules" and (
            change.fields & {"body rules", "body base", "grounds", "bodies"} or change.bodies
        ):
            if not self.conditions.held or (
                self._wanted is None and (change.fields & {"grounds", "bodies"} or not self._shows_rules())
            ):
                self.refresh()
            else:
                self._tell_state()

    def _shows_rules(self) -> bool:
        # whether the boxes show the conditions as they are, but for their numbers
        if self._chosen >= len(self.rules) or self.list.count() != len(self.rules):
            return False
        there = self.rules[self._chosen].conditions
        shown = [box.condition for box in self.conditions.boxes[: len(there)]]
        return [msgspec.structs.replace(c, ident=0) for c in there] == [
            msgspec.structs.replace(c, ident=0) for c in shown
        ]

    def _measure(self) -> None:
        body = self._session.body
        if body is not None:
            self._session.do_long(MeasureRules(body.name), self.refresh)

    def _fill_menu(self) -> None:
        self._menu.clear()
        body = self._session.body
        if body is None:
            return
        for name in shipped_rule_sets():
            action = self._menu.addAction(name.replace("_", " ").capitalize())
            assert action is not None
            action.triggered.connect(lambda _, name=name: self._use(name))
        self._menu.addSeparator()
        take = self._menu.addAction("Take in from a file…")
        share = self._menu.addAction("Share these rules…")
        every = self._menu.addAction("Give these rules to all bodies")
        assert take is not None and share is not None and every is not None
        take.triggered.connect(
            lambda: ask_json(self.window() or self, "Ground rules to use", lambda path: self._use(str(path)))
        )
        share.setEnabled(bool(self.rules))
        home = self._session.path.parent if self._session.path is not None else pathlib.Path.home()
        share.triggered.connect(
            lambda: ask_save(
                self.window() or self, "Share ground rules", home / "ground-rules.json", "json", self.write_set
            )
        )  # fmt: skip
        every.setEnabled(bool(self.rules) and len(self._session.project.bodies) > 1)
        every.triggered.connect(self._give_to_all)

    def _use(self, name: str) -> None:
        body = self._session.body
        if body is not None:
            self._chosen = 0
            self._session.do_long(UseRules(body.name, name), self.refresh)

    def _give_to_all(self) -> None:
        here = self._session.body
        for body in self._session.project.bodies:
            if here is not None and body is not here and not body.locked:
                self._session.do(SetRules(body.name, here.rules, self._session.project.grounds[here.base].name))

    def write_set(self, path: pathlib.Path) -> None:
        """Write the rules of the active body to a file."""
        body, project = self._session.body, self._session.project
        if body is None:
            return
        data = encoded_rule_set(path.stem, project.grounds[body.base].name, project.grounds, body.rules)
        try:
            with safe_write(path) as file:
                file.write(data)
        except HulmoError as error:
            self._session.noticed.emit(str(error))
            return
        self._session.noticed.emit(f"Written: {path.name}.")
