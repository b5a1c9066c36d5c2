"""Where the wheel scrolls the card instead of changing what lies under the pointer."""

from PyQt6.QtGui import QWheelEvent
from PyQt6.QtWidgets import QWidget


def takes_wheel(widget: QWidget, event: QWheelEvent | None) -> bool:
    """Whether a control is to step with the wheel: only with the keyboard's focus. Otherwise the event is passed on."""
    if event is None or widget.hasFocus():
        return event is not None
    event.ignore()
    return False
