"""The order in which Tab goes through the window: as one reads it."""

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QAbstractButton, QButtonGroup, QWidget

LINE = 9
"""Pixels by which middles may differ in height and still count as one line."""


def reading_order(parts: tuple[QWidget, ...]) -> list[QWidget]:
    """Widgets that Tab stops at: part by part, in each from the top, in a line from the left.

    Of buttons that exclude each other only the pressed one is a stop; arrows go to the others.
    """
    stops: list[QWidget] = []
    for part in parts:
        inside = [part, *part.findChildren(QWidget)]
        found = [widget for widget in inside if _stops(widget)]
        stops += _by_line([(widget.mapTo(part, widget.rect().center()), widget) for widget in found])
    return stops


def _stops(widget: QWidget) -> bool:
    if not widget.isVisible() or not widget.isEnabled() or widget.focusProxy() is not None:
        return False
    if not widget.focusPolicy().value & Qt.FocusPolicy.TabFocus.value:
        return False
    group: QButtonGroup | None = widget.group() if isinstance(widget, QAbstractButton) else None
    if group is not None and group.exclusive() and group.checkedButton() is not None:
        return group.checkedButton() is widget
    return True


def _by_line(found: list[tuple[QPoint, QWidget]]) -> list[QWidget]:
    found.sort(key=lambda entry: (entry[0].y(), entry[0].x()))
    lines: list[list[tuple[QPoint, QWidget]]] = []
    for entry in found:
        if lines and entry[0].y() - lines[-1][0][0].y() <= LINE:
            lines[-1].append(entry)
        else:
            lines.append([entry])
    return [widget for line in lines for _, widget in sorted(line, key=lambda entry: entry[0].x())]
