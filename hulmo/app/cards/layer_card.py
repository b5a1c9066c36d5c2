"""The card of the relief layers of the active body."""

from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QAction
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QMenu, QPushButton, QWidget

from hulmo.app.cards.card import Card
from hulmo.app.cards.layer_row import LayerRow
from hulmo.app.fields.name_edit import NameEdit
from hulmo.app.fields.settings_panel import SettingsPanel
from hulmo.app.session import Session
from hulmo.app.theme import Theme
from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import (
    AddLayer,
    ChangeLayer,
    ClearLayer,
    Command,
    DuplicateLayer,
    FlattenLayers,
    MergeLayer,
    MoveLayer,
    RelayRelief,
    RemoveLayer,
)
from hulmo.core.edit import Change
from hulmo.core.mesh.layer import FORM, Layer
from hulmo.core.setting import Number, Value

ROW = 26
MOST_ROWS = 6

_STRENGTH = (
    Number("strength", "Strength", "%", -200.0, 200.0, 100.0, "How much of the layer is in the shape; below 0 it is turned "
           "over."),
)  # fmt: skip


class LayerCard(Card):
    """List of layers, the highest first and the form last; brushes work on the chosen one.

    Signals
    -------
    change_asked : Layer
        The settings that a layer was laid with are to be changed.
    """

    change_asked = pyqtSignal(object)

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__("Relief layers", "Brushes work on the chosen one.", parent)
        self._session = session
        self._theme = theme
        self.list = QListWidget()
        self.list.setObjectName("layers")
        self.list.setAccessibleName("Relief layers")
        self.list.setToolTip("Upper layers lie on lower ones; brushes work on the chosen one")
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._chosen)
        self.name = NameEdit()
        self.name.setAccessibleName("Name of the chosen layer")
        self.name.setToolTip("Name of the chosen layer")
        self.name.editingFinished.connect(self._renamed)
        self.strength = SettingsPanel(_STRENGTH, theme)
        self.strength.changed.connect(self._strengthened)
        self.add = QPushButton("Add")
        self.add.setToolTip("Add an empty layer on top and work on it")
        self.add.clicked.connect(self._add)
        self.remove = QPushButton("Remove")
        self.remove.setToolTip("Remove the chosen layer with its relief; undo brings it back")
        self.remove.clicked.connect(lambda: self._do(RemoveLayer))
        self.more = QPushButton("More")
        self.more.setToolTip("Duplicate, reorder, merge down, clear, flatten all")
        menu = QMenu(self)
        self.acts: dict[str, QAction] = {}
        for name, text, act in (
            ("duplicate", "Duplicate", lambda: self._do(DuplicateLayer)),
            ("up", "Move up", lambda: self._move(1)),
            ("down", "Move down", lambda: self._move(-1)),
            ("merge", "Merge down", lambda: self._do(MergeLayer)),
            ("clear", "Clear", lambda: self._do(ClearLayer)),
            ("again", "Lay again", lambda: self._do(RelayRelief)),
            ("change", "Change settings", self._take_up),
            ("flatten", "Flatten all", self._flatten),
        ):
            action = menu.addAction(text)
            assert action is not None
            action.triggered.connect(act)
            self.acts[name] = action
        self.more.setMenu(menu)
        row = QHBoxLayout()
        for button in (self.add, self.remove, self.more):
            row.addWidget(button)
        self.body.addWidget(self.list)
        self.body.addWidget(self.name)
        self.body.addWidget(self.strength)
        self.body.addLayout(row)
        session.replaced.connect(self.refresh)
        session.changed.connect(self._changed)
        session.settings_changed.connect(self.refresh)
        session.tool_changed.connect(self.refresh)
        self.refresh()

    @classmethod
    def seen(cls, session: Session) -> bool:
        """Whether it is shown with what is in hand."""
        tool = session.tool
        guarding = tool.kind == "brush" and not BRUSHES[tool.name].shapes
        return session.stage.name == "sculpt" and session.body is not None and not guarding

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        self._theme = theme
        self.strength.set_theme(theme)
        self.refresh()

    def refresh(self) -> None:
        """Show the layers of the active body."""
        body = self._session.body
        self.setVisible(self.seen(self._session))
        if body is None:
            return
        self.list.blockSignals(True)
        self.list.clear()
        for layer in (*reversed(body.layers), None):
            row = (
                LayerRow("Form", "", None, False, self._theme)
                if layer is None
                else LayerRow(layer.name, f"{100 * layer.strength:.0f} %", layer.shown, layer.locked, self._theme)
            )
            item = QListWidgetItem()
            item.setSizeHint(QSize(0, ROW))
            item.setData(Qt.ItemDataRole.UserRole, FORM if layer is None else layer.name)
            item.setData(Qt.ItemDataRole.AccessibleTextRole, "Form" if layer is None else layer.name)
            self.list.addItem(item)
            self.list.setItemWidget(item, row)
            if layer is not None:
                row.eye_pressed.connect(lambda layer=layer: self._change(layer, shown=not layer.shown))
                row.lock_pressed.connect(lambda layer=layer: self._change(layer, locked=not layer.locked))
            if item.data(Qt.ItemDataRole.UserRole) == self._session.layer:
                self.list.setCurrentItem(item)
        self.list.setFixedHeight(ROW * min(MOST_ROWS, self.list.count()) + 4)
        self.list.blockSignals(False)
        self._show_chosen()

    def _show_chosen(self) -> None:
        layer, body = self._layer(), self._session.body
        assert body is not None
        for widget in (self.name, self.strength):
            widget.setVisible(layer is not None)
        self.remove.setEnabled(layer is not None)
        self.more.setEnabled(bool(body.layers))
        place = -1 if layer is None else body.layers.index(layer)
        for name, on in (
            ("duplicate", layer is not None),
            ("up", 0 <= place < len(body.layers) - 1),
            ("down", place > 0),
            ("merge", layer is not None),
            ("clear", layer is not None),
            ("again", layer is not None and layer.laid is not None),
            ("change", layer is not None and layer.laid is not None),
        ):
            self.acts[name].setEnabled(on)
        if layer is not None:
            if not self.name.hasFocus():
                self.name.setText(layer.name)
            self.strength.set_values({"strength": 100.0 * layer.strength})

    def _layer(self) -> Layer | None:
        body = self._session.body
        layers = () if body is None else body.layers
        return next((layer for layer in layers if layer.name == self._session.layer), None)

    def _changed(self, change: Change) -> None:
        if change.fields or change.bodies:
            self.refresh()

    def _chosen(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            self._session.choose_layer(str(item.data(Qt.ItemDataRole.UserRole)))

    def _add(self) -> None:
        body = self._session.body
        if body is not None and self._session.do(AddLayer(body.name)):
            self._session.choose_layer(body.layers[-1].name)

    def _do(self, command: type[Command]) -> None:
        body, layer = self._session.body, self._layer()
        if body is None or layer is None:
            return
        place = body.layers.index(layer)
        if self._session.do(command(body.name, layer.name)):
            if all(entry.name != layer.name for entry in body.layers):
                self._session.choose_layer(body.layers[place - 1].name if place else FORM)
            else:
                self._session.choose_layer(layer.name)

    def _move(self, step: int) -> None:
        body, layer = self._session.body, self._layer()
        if body is not None and layer is not None:
            self._session.do(MoveLayer(body.name, layer.name, body.layers.index(layer) + step))

    def _take_up(self) -> None:
        layer = self._layer()
        if layer is not None:
            self.change_asked.emit(layer)

    def _flatten(self) -> None:
        body = self._session.body
        if body is not None and self._session.do(FlattenLayers(body.name)):
            self._session.choose_layer(FORM)

    def _change(self, layer: Layer, **values: Value) -> None:
        body = self._session.body
        if body is not None:
            self._session.do(ChangeLayer(body.name, layer.name, **values))  # type: ignore[arg-type]

    def _renamed(self) -> None:
        body, layer, text = self._session.body, self._layer(), self.name.text().strip()
        if body is None or layer is None or not text or text == layer.name:
            return
        self._session.layer = text if self._session.do(ChangeLayer(body.name, layer.name, name=text)) else layer.name
        self.name.setText(self._session.layer)
        self.refresh()

    def _strengthened(self, _: str, value: Value) -> None:
        body, layer = self._session.body, self._layer()
        if body is not None and layer is not None:
            command = ChangeLayer(body.name, layer.name, strength=float(value) / 100.0)  # type: ignore[arg-type]
            self._session.drags.merged(command, f"strength {layer.ident}")
