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
from hulmo.app.tools.once import AnotherFigureTool, FigureTool, FogColourTool, LampTool, PickTool
from hulmo.app.tools.props import PropTool
from hulmo.app.tools.strew import StrewTool
from hulmo.app.tools.walk import WalkTool
from hulmo.app.tools.water import WaterTool

CONTROLLERS: dict[str, type[Controller]] = {
    "brush": BrushTool,
    "fill": FillTool,
    "vertices": ByVertexTool,
    "bore": BoreTool,
    "objects": ObjectTool,
    "hand": ByHandTool,
    "handwork": ByHandTool,
    "line": LineTool,
    "water": WaterTool,
    "strew": StrewTool,
    "prop": PropTool,
    "walk": WalkTool,
}

ONCE: dict[str, type[Controller]] = {
    "pick": PickTool,
    "figure": FigureTool,
    "another figure": AnotherFigureTool,
    "lamp": LampTool,
    "fog colour": FogColourTool,
}
"""What the next press may do instead; see `Session.do_once`."""
