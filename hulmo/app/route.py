"""The route: the stages of the work as a column of words; the open one shows its tools."""

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QToolButton, QVBoxLayout, QWidget

from hulmo.app.icons import icon
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.stages import STAGES, Stage, Tool
from hulmo.app.theme import Theme

NARROW = 85
"""Pixels of a tool that stands beside another one."""


class Route(QWidget):
    """Left side of the window. Pressing a stage or a tool tells the session; the session tells the route what is open.

    Signals of the session are all it listens to; it emits none of its own but `acted` through the buttons.
    """

    def __init__(self, session: Session, theme: Theme, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("route")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(186)
        self._session = session
        self.stage_buttons: dict[str, QPushButton] = {}
        self.tool_buttons: dict[str, QToolButton] = {}
        self._boxes: dict[str, QWidget] = {}
        self.action_taken = lambda tool: None
        self.finder = QToolButton(self)
        self.finder.setObjectName("beside")
        self.finder.setIconSize(QSize(16, 16))
        self.finder.setFixedSize(26, 24)
        self.finder.setAccessibleName("Find")
        self.finder.setToolTip("Find a tool, a look or a command by a word (Ctrl+F)")
        inside = QWidget()
        inside.setObjectName("panel")
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 4, 0, 2)
        column.setSpacing(0)
        scroll = QScrollArea()  # for windows lower than the route
        scroll.setObjectName("routescroll")
        scroll.setWidget(inside)
        scroll.setWidgetResizable(True)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(scroll)
        for number, stage in enumerate(STAGES, 1):
            column.addWidget(self._stage_button(stage, number))
            box = QWidget()
            rows = QVBoxLayout(box)
            rows.setContentsMargins(12, 0, 4, 4)
            rows.setSpacing(0)
            groups = list(dict.fromkeys(tool.group for tool in stage.tools))
            for group in groups:
                if group and len(groups) > 1:
                    caption = Label(group)
                    caption.setObjectName("caption")
                    rows.addWidget(caption)
                self._add_group(rows, [tool for tool in stage.tools if tool.group == group])
            self._boxes[stage.name] = box
            column.addWidget(box)
        column.addStretch(1)
        self.set_theme(theme)
        session.tool_changed.connect(self._show)
        self._show()

    def set_theme(self, theme: Theme) -> None:
        """Draw icons in other colours."""
        self.finder.setIcon(icon("find", theme))
        for stage in STAGES:
            for tool in stage.tools:
                self.tool_buttons[tool.ident].setIcon(icon(tool.icon, theme))

    def _stage_button(self, stage: Stage, number: int) -> QPushButton:
        button = QPushButton()
        button.setObjectName("stage")
        button.setText(f"{number}  {stage.label}")
        button.setCheckable(True)
        button.setAccessibleName(f"Stage {stage.label}")
        button.setToolTip(f"{stage.help} ({stage.key})")
        button.setMinimumWidth(184)
        button.setCursor(Qt.CursorShape.PointingHandCursor)
        button.clicked.connect(lambda: self._session.choose_stage(stage))
        self.stage_buttons[stage.name] = button
        return button

    def _add_group(self, rows: QVBoxLayout, tools: list[Tool]) -> None:
        beside: list[Tool] = []
        for tool in tools:
            if tool.narrow:
                beside.append(tool)
            else:
                rows.addWidget(self._tool_row(tool))
        if not beside:
            return
        box = QWidget()
        grid = QGridLayout(box)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setSpacing(0)
        half = -(-len(beside) // 2)
        for i, tool in enumerate(beside):  # down the first column, then down the second
            button = self._tool_button(tool)
            button.setObjectName("beside")
            button.setFixedWidth(NARROW)
            grid.addWidget(button, i % half, i // half)
        rows.addWidget(box)

    def _tool_row(self, tool: Tool) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 4, 0)
        line.setSpacing(0)
        button = self._tool_button(tool)
        button.setMinimumWidth(126)
        key = Label(tool.key)
        key.setObjectName("quiet")
        line.addWidget(button)
        line.addStretch(1)
        line.addWidget(key)
        return row

    def _tool_button(self, tool: Tool) -> QToolButton:
        button = QToolButton()
        button.setObjectName("tool")
        button.setText(f" {tool.label}")
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        button.setIconSize(QSize(18, 18))
        button.setCheckable(tool.kind != "action")
        button.setFixedHeight(21)
        button.setAccessibleName(tool.label)
        button.setToolTip(f"{tool.help}{f' ({tool.key})' if tool.key else ''}")
        button.clicked.connect(lambda: self.press(tool))
        self.tool_buttons[tool.ident] = button
        return button

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Keep the finder's button in its corner."""
        super().resizeEvent(event)
        self.finder.move(self.width() - 32, 10)
        self.finder.raise_()

    def press(self, tool: Tool) -> None:
        """Take a tool in hand, or do what an action says."""
        if tool.kind == "action":
            self.action_taken(tool)
        else:
            self._session.choose_tool(tool)

    def _show(self) -> None:
        for stage in STAGES:
            here = stage is self._session.stage
            self.stage_buttons[stage.name].setChecked(here)
            self._boxes[stage.name].setVisible(here)
            for tool in stage.tools:
                self.tool_buttons[tool.ident].setChecked(tool is self._session.tool)
