"""The card of strew rules: where props stand of themselves."""

import msgspec
from PyQt6.QtCore import QSize, QTimer
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QPushButton, QToolButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.cards.condition_box import new_condition
from hulmo.app.cards.condition_list import ConditionList
from hulmo.app.cards.layer_row import LayerRow
from hulmo.app.fields.name_edit import NameEdit
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import SetStrewRules
from hulmo.core.ground.measures import MEASURES
from hulmo.core.ground.rules import Condition
from hulmo.core.project import free_name
from hulmo.core.props.strew import HOW
from hulmo.core.props.strew_rules import StrewRule
from hulmo.core.setting import Value, complete

ROW = 27
SOON = 250
"""Milliseconds after the last change of a field at which rules are followed."""


class StrewRuleCard(Card):
    """List of the rules, settings and conditions of the chosen one."""

    KINDS = ("strew rules",)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(
            "Strew rules", "Props stand where these say; what you set or take away by hand stays so.", parent
        )
        self._session = session
        self._theme = theme
        self._chosen = 0
        self._wanted: tuple[str, tuple[StrewRule, ...]] | None = None
        self.list = QListWidget()
        self.list.setAccessibleName("Strew rules")
        self.list.setToolTip("Earlier rules take their room first")
        self.list.currentRowChanged.connect(self._choose)
        self.name = NameEdit()
        self.name.setAccessibleName("Name of the strew rule")
        self.name.setToolTip("Name of the strew rule")
        self.name.editingFinished.connect(self._renamed)
        self.told = Label("")
        self.told.setObjectName("quiet")
        self.told.setWordWrap(True)
        self.told.setAccessibleName("What the rule strews")
        self.tray = QPushButton("Strew what is ticked")
        self.tray.setToolTip("The rule strews what is ticked on the tray now, by its shares")
        self.tray.clicked.connect(lambda: self._replace(shares=self._ticked()))
        self.panel = SettingsPanel(HOW, theme)
        self.panel.changed.connect(self._set)
        self.conditions = ConditionList(
            "Strew condition", "Narrow the rule down, or widen it, by a measure of the ground", theme
        )
        self.conditions.changed.connect(self._set_condition)
        self.conditions.removed.connect(self._drop_condition)
        self.conditions.asked.connect(self._add_condition)
        row = QHBoxLayout()
        row.setSpacing(0)
        self.buttons: dict[str, QToolButton] = {}
        for name, label, text in (
            ("add", "Add", "Add a rule for what is ticked on the tray"),
            ("remove", "Remove", "Remove the rule and what it has strewn"),
        ):
            button = QToolButton()
            button.setText(label)
            button.setToolTip(text)
            button.setAccessibleName(f"{label} strew rule")
            button.clicked.connect(lambda _, name=name: self._press(name))
            self.buttons[name] = button
            row.addWidget(button)
        row.addStretch(1)
        self.body.addWidget(self.list)
        self.body.addLayout(row)
        for part in (self.name, self.told, self.tray, self.panel, self.conditions):
            self.body.addWidget(part)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(SOON)
        self._soon.timeout.connect(self._send)
        session.tool_changed.connect(self.refresh)
        session.replaced.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        session.changed.connect(
            lambda change: self.refresh() if change.fields & {"body strewn", "body strew_rules", "props"} else None
        )
        self.refresh()

    @property
    def rules(self) -> tuple[StrewRule, ...]:
        """Rules of the active body, as they are or are about to be."""
        body = self._session.body
        if body is None:
            return ()
        return self._wanted[1] if self._wanted is not None and self._wanted[0] == body.name else body.strew_rules

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        self.panel.set_theme(theme)
        self.conditions.set_theme(theme)
        self.refresh()

    def refresh(self) -> None:
        """Show the rules of the active body."""
        here = self.seen(self._session)
        self.setVisible(here)
        if not here:
            return
        rules = self.rules
        self._chosen = min(self._chosen, max(0, len(rules) - 1))
        self.list.blockSignals(True)
        self.list.clear()
        for place, rule in enumerate(rules):
            row = LayerRow(rule.name, ", ".join(rule.shares) or "nothing", rule.shown, False, self._theme)
            row.eye_pressed.connect(lambda place=place, rule=rule: self._set_rule(place, shown=not rule.shown))
            row.hide_lock()
            item = QListWidgetItem()
            item.setSizeHint(QSize(10, ROW))
            self.list.addItem(item)
            self.list.setItemWidget(item, row)
        self.list.setCurrentRow(self._chosen)
        self.list.blockSignals(False)
        self.list.setFixedHeight(ROW * min(max(len(rules), 1), 5) + 6)
        self.list.setVisible(bool(rules))
        self.buttons["add"].setEnabled(self._session.body is not None)
        self.buttons["remove"].setEnabled(bool(rules))
        self._show()

    def _show(self) -> None:
        rules, project = self.rules, self._session.project
        for part in (self.name, self.told, self.tray, self.panel, self.conditions):
            part.setVisible(bool(rules))
        if not rules:
            return
        rule = rules[self._chosen]
        self.conditions.show_conditions(rule.conditions, project, self._session.body)
        if not self.name.hasFocus():
            self.name.setText(rule.name)
        names = [f"{name} {share:g}" for name, share in rule.shares.items() if share > 0]
        self.told.setText(f"Strews {', '.join(names)}." if names else "Strews nothing: tick props on the tray first.")
        self.panel.set_values(complete(HOW, rule.settings, "strew rule"))

    def _ticked(self) -> dict[str, float]:
        return {prop.name: prop.share for prop in self._session.project.props if prop.share > 0}

    def _press(self, name: str) -> None:
        rules = list(self.rules)
        if name == "add":
            shares = self._ticked()
            label = next(iter(shares), "Rule")
            rules.append(StrewRule(free_name(label, [rule.name for rule in rules]), shares))
            self._chosen = len(rules) - 1
        elif rules:
            del rules[self._chosen]
        self._want(tuple(rules), at_once=True)

    def _choose(self, row: int) -> None:
        if row >= 0:
            self._chosen = row
            self._show()

    def _set(self, name: str, value: Value) -> None:
        if not self.rules:
            return
        settings = {**self.rules[self._chosen].settings, name: value}
        self._replace(settings=settings)

    def _set_condition(self, place: int, condition: Condition) -> None:
        conditions = list(self.rules[self._chosen].conditions) if self.rules else []
        if place < len(conditions):
            conditions[place] = msgspec.structs.replace(condition, ident=0)
            self._replace(conditions=tuple(conditions))

    def _drop_condition(self, place: int) -> None:
        conditions = list(self.rules[self._chosen].conditions) if self.rules else []
        if place < len(conditions):
            del conditions[place]
            self._replace(conditions=tuple(conditions))
            self._show()

    def _add_condition(self) -> None:
        if self.rules:
            self._replace(conditions=(*self.rules[self._chosen].conditions, new_condition(MEASURES["slope"])))
            self._show()

    def _renamed(self) -> None:
        text = self.name.text().strip()
        if self.rules and text and text != self.rules[self._chosen].name:
            taken = [rule.name for rule in self.rules]
            self._replace(name=free_name(text, taken))

    def _set_rule(self, place: int, **values: object) -> None:
        rules = list(self.rules)
        rules[place] = msgspec.structs.replace(rules[place], **values)
        self._want(tuple(rules), at_once=True)

    def _replace(self, **values: object) -> None:
        if not self.rules:
            return
        rules = list(self.rules)
        rules[self._chosen] = msgspec.structs.replace(rules[self._chosen], **values)
        self._want(tuple(rules))

    def _want(self, rules: tuple[StrewRule, ...], at_once: bool = False) -> None:
        body = self._session.body
        if body is None:
            return
        self._wanted = (body.name, rules)
        if at_once:
            self._send()
        else:
            self._soon.start()

    def _send(self) -> None:
        if self._wanted is None:
            return
        if self._session.busy:
            self._soon.start()
            return
        name, rules = self._wanted
        self._wanted = None
        self._session.do_long(SetStrewRules(name, rules), self.refresh)
