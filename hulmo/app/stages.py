"""The stages of the route and the tools each one offers, all read from the registries."""

from dataclasses import dataclass

from hulmo.app.handwork import HANDWORK
from hulmo.app.operations import OPERATIONS
from hulmo.core.brushes import BRUSHES
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.mesh.forms import FORMS
from hulmo.core.relief import RELIEFS

SHORT = 8
"""Letters of a name that there is room for beside another one."""


@dataclass(frozen=True)
class Tool:
    """One entry of the route.

    Attributes
    ----------
    kind : str
        "form", "operation", "care", "bore", "brush", "fill", "vertices", "rules", "relief", "action", "light",
        "objects", "line", "water", "strew", "strew rules", "prop", "prop care", "walk", "still", "bake" or "export".
    name, label, help, key, icon : str
        `name` is the entry's name in its registry.
    group : str
        What it has in common with those beside it; empty where that need not be said.
    """

    kind: str
    name: str
    label: str
    help: str
    key: str
    icon: str
    group: str = ""

    @property
    def narrow(self) -> bool:
        """Whether two of its kind stand beside each other: many of a kind, with short names."""
        return self.kind == "relief" or (self.kind in ("handwork", "form") and len(self.label) <= SHORT)

    @property
    def ident(self) -> str:
        """A name no other tool has."""
        return f"{self.kind} {self.name}"


@dataclass(frozen=True)
class Stage:
    """One step of the work."""

    name: str
    label: str
    help: str
    key: str
    tools: tuple[Tool, ...]


UV_GROUP = "Texture coordinates"
"""The tools that lay a surface flat."""


def _forms() -> tuple[Tool, ...]:
    return tuple(
        Tool("form", form.name, form.label, form.help, f"Alt+{number}", form.name, "Begin")
        for number, form in enumerate(FORMS.values(), 1)
    )


def _operations(stage: str, group: str) -> tuple[Tool, ...]:
    return tuple(
        Tool("operation", entry.name, entry.label, entry.help, "", entry.name, group)
        for entry in OPERATIONS.values()
        if entry.stage == stage
    )


def _brushes(stage: str) -> tuple[Tool, ...]:
    return tuple(
        Tool("brush", brush.name, brush.label, brush.help, brush.key, brush.name, brush.group)
        for group in dict.fromkeys(brush.group for brush in BRUSHES.values() if brush.stage == stage)
        for brush in BRUSHES.values()
        if (brush.stage, brush.group) == (stage, group)
    )


def _reliefs() -> tuple[Tool, ...]:
    return tuple(
        Tool("relief", relief.name, relief.label, relief.help, f"Ctrl+{number}", relief.name, "Over the whole body")
        for number, relief in enumerate(RELIEFS.values(), 1)
    )


def _hands() -> tuple[Tool, ...]:
    return tuple(
        Tool("hand", name, label, text, key, name, "Choose and move")
        for name, label, text, key in (
            ("choose", "Choose", "Chooses vertices, edges or faces.", "Shift+C"),
            ("move", "Move", "Moves what is chosen by grips.", "Shift+M"),
            ("turn", "Turn", "Turns what is chosen by grips.", "Shift+U"),
            ("scale", "Scale", "Scales what is chosen by grips.", "Shift+L"),
            ("plant", "Plant", "Puts a vertex where you press, on a face or an edge.", "Shift+I"),
        )
    )


def _lines() -> tuple[Tool, ...]:
    return tuple(
        Tool("line", name, label, text, key, name, "Lines on the ground")
        for name, label, text, key in (
            ("outline", "Outline", "A closed line on the ground: carries ground, edges and relief.", "Shift+N"),
            ("track", "Track", "An open line of some width: a path, a stream, a wall.", "Shift+B"),
        )
    )


def _handwork() -> tuple[Tool, ...]:
    return tuple(
        Tool("handwork", entry.name, entry.label, entry.help, "", entry.name, "With what is chosen")
        for entry in HANDWORK.values()
    )


def _exports() -> tuple[Tool, ...]:
    return tuple(
        Tool("export", entry.ending, entry.label, entry.help, "", entry.ending, "Files") for entry in EXPORTERS.values()
    )


_IMPORT = Tool(
    "action",
    "import",
    "Import",
    "Takes an OBJ, PLY, STL, GLB, glTF or USD file in as a body.",
    "Ctrl+I",
    "import",
    "Begin",
)
_BORE = Tool("bore", "bore", "Bore", "Cuts a passage: an arch, a cave.", "O", "bore", "Change the body")
_CARE = Tool(
    "care",
    "care",
    "Mesh care",
    "Finds thin, turned-over, crossing and other faulty triangles.",
    "M",
    "care",
    "Change the body",
)
_FILL = Tool(
    "fill", "fill", "Fill", "Lays the ground in hand over all of the body, or a part of it.", "F", "fill", "Paint"
)
_PICK = Tool("action", "pick", "Pick", "Takes what lies most under the pointer in hand.", "Shift+P", "pick", "Paint")
_VERTICES = Tool(
    "vertices", "vertices", "By vertex", "Choose vertices and give them exact weights.", "Shift+V", "vertices", "Paint"
)
_RULES = Tool("rules", "rules", "Ground rules", "Where each ground lies of itself.", "Shift+R", "rules", "Paint")
_PAINTED = Tool(
    "painted images", "painted_images", "Painted images", "Takes what is painted out to images and in again.", "Shift+A",
    "painted_images", "Paint",
)  # fmt: skip
_OBJECTS = Tool("objects", "objects", "In the scene", "Figures and viewpoints: where they are.", "Shift+O", "figure")
_WATERS = (
    Tool(
        "water", "level_water", "Level water", "Water at one height: press where it is to stand.", "Shift+W", "level_water",
        "Water",
    ),
    Tool("water", "pond", "Pond", "Water that fills the hollow you press in.", "Shift+D", "pond", "Water"),
)  # fmt: skip
_PROPS = (
    Tool("strew", "strew", "Strew", "Sets props of the tray on the ground, none over another.", "Shift+Y", "strew", "Props"),
    Tool("strew rules", "strew_rules", "Strew rules", "Where props stand of themselves.", "Shift+K", "strew_rules", "Props"),
    Tool("prop", "prop", "Prop in hand", "Takes single props to move, turn, scale or swap them.", "Shift+X", "prop", "Props"),
    Tool("prop care", "prop_care", "Prop care", "Finds what floats, is buried, leans, overlaps or stands in water.",
         "Shift+Q", "prop_care", "Props"),
)  # fmt: skip
_SUN = Tool("light", "sun", "Sun and sky", "Where the sun stands and how strong light is.", "U", "sun")

_STILL = Tool("still", "still", "Still", "Draws pictures to files: one, a turn, or a flight.", "Shift+J", "still")
_BAKE = Tool(
    "bake", "bake", "Bake", "Images of what lies on bodies, by their texture coordinates.", "Shift+H", "bake", "Files"
)
_WALK = Tool("walk", "walk", "Walk", "Walks over the ground and into caves at eye height.", "Shift+Z", "walk")

_DELIVER = Tool(
    "deliver", "deliver", "By profile", "Checks what would go wrong, and writes all that a target takes.", "Ctrl+E",
    "deliver", "Files",
)  # fmt: skip
_UV_VIEW = Tool(
    "action", "uv_view", "UV view", "Shows charts beside the scene, or hides them.", "Shift+E", "uv_view", UV_GROUP
)

STAGES: tuple[Stage, ...] = (
    Stage(
        "block",
        "Block out",
        "Start from a base form.",
        "F1",
        (*_forms(), _IMPORT, _BORE, *_operations("block", "Change the body"), _CARE),
    ),
    Stage("sculpt", "Sculpt", "Shape the surface.", "F2", (*_brushes("sculpt"), *_reliefs())),
    Stage(
        "hand",
        "By hand",
        "Choose vertices, edges and faces, and work on them.",
        "F3",
        (*_hands(), *_lines(), *_handwork()),
    ),
    Stage(
        "ground",
        "Ground",
        "Paint what the land is made of.",
        "F4",
        (*_brushes("ground"), _FILL, _PICK, _VERTICES, _RULES, _PAINTED),
    ),
    Stage(
        "dress",
        "Dress",
        "Put water and props into the scene.",
        "F5",
        (*_WATERS, *_PROPS, *_operations("dress", "Ground and rock")),
    ),
    Stage("light", "Light", "Set sun and sky, and from where to look.", "F6", (_SUN, _OBJECTS, _WALK, _STILL)),
    Stage(
        "deliver",
        "Deliver",
        "Write files for engines and renderers.",
        "F7",
        (*_exports(), _DELIVER, _BAKE, _UV_VIEW, *_operations("deliver", UV_GROUP)),
    ),
)

TOOLS: dict[str, Tool] = {tool.ident: tool for stage in STAGES for tool in stage.tools}


def stage_of(tool: Tool) -> Stage:
    """The stage that offers a tool."""
    return next(stage for stage in STAGES if tool in stage.tools)


def tool_named(kind: str, name: str) -> Tool:
    """A tool of the route."""
    return TOOLS[f"{kind} {name}"]
