"""A column of fields made from declared settings."""

from collections.abc import Mapping

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from hulmo.app.fields.choice_field import ChoiceField
from hulmo.app.fields.number_field import NumberField
from hulmo.app.theme import Theme
from hulmo.core.setting import Choice, Number, Setting, Switch, Value, Values


class SettingsPanel(QWidget):
    """Fields for settings, in their order.

    Signals
    -------
    changed : str, object
        Name and new value of a setting the user changed.
    """

    changed = pyqtSignal(str, object)

    def __init__(self, settings: tuple[Setting, ...], theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.settings = settings
        self.fields: dict[str, NumberField | ChoiceField | QCheckBox] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        for setting in settings:
            field = self._field(setting, theme)
            field.setObjectName(setting.name)
            self.fields[setting.name] = field
            column.addWidget(field)

    @property
    def values(self) -> Values:
        """All present values."""
        return {name: _value(field) for name, field in self.fields.items()}

    def set_values(self, values: Mapping[str, Value]) -> None:
        """Show values; no signal."""
        for name, value in values.items():
            field = self.fields.get(name)
            if isinstance(field, NumberField):
                field.set_value(float(value))
            elif isinstance(field, ChoiceField):
                field.set_value(str(value))
            elif field is not None:
                field.setChecked(bool(value))

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        for field in self.fields.values():
            if isinstance(field, NumberField):
                field.set_theme(theme)

    def _field(self, setting: Setting, theme: Theme) -> NumberField | ChoiceField | QCheckBox:
        if isinstance(setting, Number):
            number = NumberField(setting, theme)
            number.changed.connect(lambda value: self.changed.emit(setting.name, value))
            return number
        if isinstance(setting, Choice):
            choice = ChoiceField(setting)
            choice.changed.connect(lambda value: self.changed.emit(setting.name, value))
            return choice
        assert isinstance(setting, Switch)
        box = QCheckBox(setting.label)
        box.setChecked(setting.default)
        box.setToolTip(setting.help)
        box.clicked.connect(lambda on: self.changed.emit(setting.name, on))
        return box


def _value(field: NumberField | ChoiceField | QCheckBox) -> Value:
    return field.isChecked() if isinstance(field, QCheckBox) else field.value
