"""Names of controls for those who hear the window: a button is called as it reads, rows that repeat are numbered."""

from PyQt6.QtWidgets import QAbstractButton, QWidget

OWN = "spoken"
"""Property that keeps what a control is called without its number, or what it was named after."""


def name_buttons(window: QWidget) -> None:
    """Give every button that nobody has named the words on it; call it again after words have changed."""
    for button in window.findChildren(QAbstractButton):
        name, text = button.accessibleName(), button.text().strip()
        if text and (not name or (button.property(OWN) == name != text)):
            button.setAccessibleName(text)
            button.setProperty(OWN, text)


def number_row(row: QWidget, what: str, number: int) -> None:
    """Begin the names of all controls of a row with what it is and its number, from 1: "Condition 2: Measure"."""
    for control in row.findChildren(QWidget):
        name = control.property(OWN) or control.accessibleName()
        if not name and isinstance(control, QAbstractButton):
            name = control.text()
        if name:
            control.setProperty(OWN, name)
            control.setAccessibleName(f"{what} {number}: {name}")
