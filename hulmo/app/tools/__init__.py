"""Tools on the canvas, by kind. A kind that is not named here leaves the canvas to the view. To add one: write its file, add
one line here."""

from hulmo.app.tools.bore import BoreTool
from hulmo.app.tools.brush import BrushTool
from hulmo.app.tools.by_hand import ByHandTool
from hulmo.app.tools.by_vertex import ByVertexTool
from hulmo.app.tools.controller import Controller
from hulmo.app.tools.fill import FillTool
from hulmo.app.tools.lines import LineTool
from hulmo.app.tools.objects import ObjectTool
from hulmo.app.tools.once import AnotherFigureTool, FigureTool, PickTool

CONTROLLERS: dict[str, type[Controller]] = {
    "brush": BrushTool,
    "fill": FillTool,
    "vertices": ByVertexTool,
    "bore": BoreTool,
    "objects": ObjectTool,
    "hand": ByHandTool,
    "handwork": ByHandTool,
    "line": LineTool,
}

ONCE: dict[str, type[Controller]] = {"pick": PickTool, "figure": FigureTool, "another figure": AnotherFigureTool}
"""What the next press may do instead; see `Session.do_once`."""
