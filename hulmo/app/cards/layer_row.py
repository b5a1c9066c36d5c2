"""One relief layer in the list of layers: eye, name, strength, lock."""

from PyQt6.QtCore import QSize, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QToolButton, QWidget

from hulmo.app.icons import icon
from hulmo.app.theme import Theme
from hulmo.core.mesh.layer import Layer


class LayerRow(QWidget):
    """Shows a layer, or the form for None.

    Signals
    -------
    eye_pressed, lock_pressed
    """

    eye_pressed = pyqtSignal()
    lock_pressed = pyqtSignal()

    def __init__(self, layer: Layer | None, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        name = QLabel("Form" if layer is None else layer.name)
        line = QHBoxLayout(self)
        line.setContentsMargins(2, 0, 6, 0)
        line.setSpacing(4)
        if layer is None:
            name.setToolTip("What lies under all relief layers")
            line.addSpacing(27)
            line.addWidget(name, 1)
            return
        eye = self._button(
            "eye" if layer.shown else "eye_off", f"{'Hide' if layer.shown else 'Show'} {layer.name}", theme
        )
        lock = self._button(
            "lock" if layer.locked else "lock_off", f"{'Unlock' if layer.locked else 'Lock'} {layer.name}", theme
        )
        eye.clicked.connect(self.eye_pressed)
        lock.clicked.connect(self.lock_pressed)
        strength = QLabel(f"{100 * layer.strength:.0f} %")
        strength.setObjectName("quiet")
        name.setEnabled(layer.shown)
        line.addWidget(eye)
        line.addWidget(name, 1)
        line.addWidget(strength)
        line.addWidget(lock)

    def _button(self, name: str, text: str, theme: Theme) -> QToolButton:
        button = QToolButton()
        button.setIcon(icon(name, theme))
        button.setIconSize(QSize(16, 16))
        button.setFixedSize(23, 22)
        button.setStyleSheet("padding: 0;")
        button.setToolTip(text)
        button.setAccessibleName(text)
        return button
