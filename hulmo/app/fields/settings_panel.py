"""A column of fields made from declared settings."""

from collections.abc import Mapping

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QCheckBox, QVBoxLayout, QWidget

from hulmo.app.fields.choice_field import ChoiceField
from hulmo.app.fields.colour_field import ColourField
from hulmo.app.fields.curve_field import CurveField
from hulmo.app.fields.number_field import NumberField
from hulmo.app.fields.picture_field import PictureField
from hulmo.app.fields.text_field import TextField
from hulmo.app.label import plain_tip
from hulmo.app.theme import Theme
from hulmo.core.setting import Choice, Colour, Curve, Number, Picture, Setting, Switch, Text, Value, Values, matters

Field = NumberField | ChoiceField | ColourField | CurveField | PictureField | TextField | QCheckBox


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
        self.fields: dict[str, Field] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        for setting in settings:
            field = self._field(setting, theme)
            field.setObjectName(setting.name)
            self.fields[setting.name] = field
            column.addWidget(field)
        self.changed.connect(self._hide_idle)
        self._hide_idle()

    @property
    def values(self) -> Values:
        """All present values."""
        return {name: _value(field) for name, field in self.fields.items()}

    def set_values(self, values: Mapping[str, Value]) -> None:
        """Show values; no signal."""
        for name, value in values.items():
            field = self.fields.get(name)
            if isinstance(field, NumberField):
                field.set_value(float(value))  # type: ignore[arg-type]
            elif isinstance(field, ChoiceField | PictureField | ColourField | TextField):
                if field.value != str(value):
                    field.set_value(str(value))
            elif isinstance(field, CurveField):
                field.set_value(value)  # type: ignore[arg-type]
            elif field is not None:
                field.setChecked(bool(value))
        for setting in self.settings:
            if setting.only is not None:
                self.fields[setting.name].setVisible(matters(setting, {**self.values, **values}, self.settings))

    def set_theme(self, theme: Theme) -> None:
        """Draw in other colours."""
        for field in self.fields.values():
            if isinstance(field, NumberField | CurveField):
                field.set_theme(theme)

    def _hide_idle(self) -> None:
        values = self.values
        for setting in self.settings:
            if setting.only is not None:
                self.fields[setting.name].setVisible(matters(setting, values, self.settings))

    def _field(self, setting: Setting, theme: Theme) -> Field:
        if isinstance(setting, Number):
            number = NumberField(setting, theme)
            number.changed.connect(lambda value: self.changed.emit(setting.name, value))
            return number
        if isinstance(setting, Choice):
            choice = ChoiceField(setting)
            choice.changed.connect(lambda value: self.changed.emit(setting.name, value))
            return choice
        if isinstance(setting, Curve):
            curve = CurveField(setting, theme)
            curve.changed.connect(lambda value: self.changed.emit(setting.name, value))
            return curve
        if isinstance(setting, Colour):
            colour = ColourField(setting)
            colour.changed.connect(lambda value: self.changed.emit(setting.name, value))
            return colour
        if isinstance(setting, Text):
            text = TextField(setting)
            text.changed.connect(lambda value: self.changed.emit(setting.name, value))
            return text
        if isinstance(setting, Picture):
            picture = PictureField(setting)
            picture.changed.connect(lambda value: self.changed.emit(setting.name, value))
            return picture
        assert isinstance(setting, Switch)
        box = QCheckBox(setting.label)
        box.setAccessibleName(setting.label)
        box.setChecked(setting.default)
        box.setToolTip(plain_tip(setting.help))
        box.clicked.connect(lambda on: self.changed.emit(setting.name, on))
        return box


def _value(field: Field) -> Value:
    return field.isChecked() if isinstance(field, QCheckBox) else field.value
