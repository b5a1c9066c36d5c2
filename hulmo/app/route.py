"""The route: the stages of the work as a column of words; the open one shows its tools."""

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QScrollArea, QToolButton, QVBoxLayout, QWidget

from hulmo.app.icons import icon
from hulmo.app.label import Label
from hulmo.app.session import Session
from hulmo.app.stages import STAGES, Stage, Tool
from hulmo.app.theme import Theme

CAPTIONS = {"relief": "Over the whole body", "bore": "Change the body"}
"""Words above a kind of tool."""


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
        inside = QWidget()
        inside.setObjectName("panel")
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 6, 0, 6)
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
            rows.setContentsMargins(12, 0, 8, 8)
            rows.setSpacing(0)
            for before, tool in zip((None, *stage.tools), stage.tools, strict=False):
                if before is not None and before.kind != tool.kind and tool.kind in CAPTIONS:
                    caption = Label(CAPTIONS[tool.kind])
                    caption.setObjectName("quiet")
                    caption.setContentsMargins(6, 4, 0, 0)
                    rows.addWidget(caption)
                rows.addWidget(self._tool_row(tool))
            self._boxes[stage.name] = box
            column.addWidget(box)
        column.addStretch(1)
        self.set_theme(theme)
        session.tool_changed.connect(self._show)
        self._show()

    def set_theme(self, theme: Theme) -> None:
        """Draw icons in other colours."""
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

    def _tool_row(self, tool: Tool) -> QWidget:
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        line.setSpacing(0)
        button = QToolButton()
        button.setText(f" {tool.label}")
        button.setToolButtonStyle(Qt.ToolButtonStyle.ToolButtonTextBesideIcon)
        button.setIconSize(QSize(20, 20))
        button.setCheckable(tool.kind != "action")
        button.setMinimumWidth(126)
        button.setFixedHeight(24)
        button.setAccessibleName(tool.label)
        button.setToolTip(f"{tool.help}{f' ({tool.key})' if tool.key else ''}")
        button.clicked.connect(lambda: self.press(tool))
        self.tool_buttons[tool.ident] = button
        key = Label(tool.key)
        key.setObjectName("quiet")
        line.addWidget(button)
        line.addStretch(1)
        line.addWidget(key)
        return row

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
