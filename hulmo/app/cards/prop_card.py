"""The card of props in hand."""

from PyQt6.QtWidgets import QCheckBox, QComboBox, QGridLayout, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.fields.drop_down import DropDown
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.label import Label, plain_tip
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.commands import BankUp
from hulmo.core.mesh.strewn import FIXED
from hulmo.core.setting import Number, Value

SETTINGS = (
    Number("turn", "Turned", "°", 0.0, 360.0, 0.0, "About its own axis."),
    Number("size", "Size", "×", 0.01, 100.0, 1.0, "Factor.", comfort=(0.2, 4.0), curve=2.0),
)


class PropCard(Card):
    """Turn, scale, swap, fix or take away what is in hand."""

    KINDS = ("prop",)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Props in hand", "Press one; Shift takes more. Drag to move it on the ground.", parent)
        self._session = session
        self.told = Label("")
        self.told.setObjectName("quiet")
        self.told.setWordWrap(True)
        self.told.setAccessibleName("Props in hand")
        self.panel = SettingsPanel(SETTINGS, theme)
        self.panel.changed.connect(self._set)
        self.swap = DropDown()
        self.swap.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.swap.setAccessibleName("Prop of the tray")
        self.swap.setToolTip("Swap it for another prop of the tray")
        self.swap.activated.connect(lambda _: session.props.do(prop=str(self.swap.currentData())))
        self.fixed = QCheckBox("Fixed")
        self.fixed.setToolTip(plain_tip("Brushes and rules leave it as it is"))
        self.fixed.clicked.connect(lambda on: session.props.do(fixed=on))
        self.same = self._button("All of its kind", "Take all of the same prop in hand")
        self.same.clicked.connect(session.props.like_it)
        self.bank = self._button("Bank up", "Raise the ground around what is in hand by 20 cm, fading over a metre")
        self.bank.clicked.connect(self._bank)
        self.remove = self._button("Take away", "Take what is in hand away; undo brings it back")
        self.remove.clicked.connect(lambda: session.props.do(remove=True))
        buttons = QGridLayout()
        buttons.setSpacing(5)
        buttons.addWidget(self.same, 0, 0)
        buttons.addWidget(self.bank, 0, 1)
        buttons.addWidget(self.remove, 1, 0, 1, 2)
        for part in (self.told, self.swap, self.panel, self.fixed):
            self.body.addWidget(part)
        self.body.addLayout(buttons)
        session.tool_changed.connect(self.refresh)
        session.replaced.connect(self.refresh)
        session.settings_changed.connect(self.refresh)
        session.props.changed.connect(self.refresh)
        session.changed.connect(lambda change: self.refresh() if change.fields & {"body strewn", "props"} else None)
        self.refresh()

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self.panel.set_theme(theme)

    def refresh(self) -> None:
        """Show what is in hand."""
        session = self._session
        here = self.seen(session)
        self.setVisible(here)
        if not here:
            return
        rows, strewn = session.props.chosen, session.props.strewn
        for part in (self.panel, self.swap, self.fixed, self.same, self.bank, self.remove):
            part.setVisible(bool(rows))
        if not rows:
            count = int(strewn.there.sum())
            self.told.setText(f"{count:,} props stand on this body." if count else "No props stand on this body.")
            return
        names = {prop.ident: prop.name for prop in session.project.props}
        kind = names.get(int(strewn.prop[rows[0]]), "")
        self.told.setText(kind if len(rows) == 1 else f"{len(rows):,} props, first of them {kind}")
        self.swap.clear()
        for name in names.values():
            self.swap.addItem(name, name)
        self.swap.setCurrentIndex(self.swap.findData(kind))
        self.panel.set_values({"turn": float(strewn.turn[rows[0]]) % 360.0, "size": float(strewn.size[rows[0]])})
        self.fixed.setChecked(bool((strewn.mark[list(rows)] == FIXED).all()))

    def _set(self, name: str, value: Value) -> None:
        work = self._session.props
        if not work.chosen or not isinstance(value, float):
            return
        if name == "turn":
            work.do("props turned", turn=value)
        else:
            work.do("props scaled", size=value)

    def _bank(self) -> None:
        body, rows = self._session.props.body, self._session.props.chosen
        if body is not None and rows:
            self._session.do_long(BankUp(body.name, "", rows, layer=self._session.layer))

    def _button(self, text: str, tip: str) -> QPushButton:
        button = QPushButton(text)
        button.setToolTip(tip)
        return button
