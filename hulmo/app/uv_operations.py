"""What the Deliver stage does to texture coordinates. To add one: write its entry here and draw its icon."""

from dataclasses import replace

from hulmo.app.operation import WAYS, Operation
from hulmo.app.told import told
from hulmo.core.commands import (
    ChangeUv,
    Command,
    LayUv,
    MarkSeams,
    PackUv,
    RelaxUv,
    StackUv,
    StraightenUv,
    UnwrapAlongSeams,
    UnwrapUv,
)
from hulmo.core.counted import counted
from hulmo.core.mesh.body import Body
from hulmo.core.setting import Choice, Number, Setting, Switch, Text, Values, number
from hulmo.core.uv import PROJECTIONS
from hulmo.core.uv.seams import seams_of

_SETS: tuple[Setting, ...] = (
    Choice("faces", "Faces", (("all", "All", "The whole body."), ("chosen", "Chosen", "What is chosen by hand.")), "all",
           "Which faces."),
    Choice("of", "As it lies", (("surface", "Now", "With its relief layers."), ("form", "Before relief", "With its relief "
           "layers off, so that late is not too late.")), "surface", "Which surface counts."),
    Text("into", "Set", "", "Name of a further set of texture coordinates; empty for the first."),
)  # fmt: skip
_RASTER: tuple[Setting, ...] = (
    Number(
        "size",
        "Image",
        "px",
        16,
        16384,
        2048.0,
        "Texels a side of the image that it is for.",
        comfort=(256, 8192),
        whole=True,
    ),
    Number("margin", "Margin", "px", 0, 64, 4.0, "Texels between charts.", whole=True),
)  # fmt: skip


def _lay_uv(body: Body, values: Values, other: str) -> Command:
    way = str(values["way"])
    own = {setting.name: values[setting.name] for setting in PROJECTIONS[way].settings}
    unit = number(values, "unit")
    return LayUv(body.name, way, own, unit, str(values["faces"]), str(values["of"]), str(values["into"]))


def _change_uv(body: Body, values: Values, other: str) -> Command:
    mirror = {"no": "", "u": "u", "v": "v"}[str(values["mirror"])]
    scale = number(values, "scale_u"), number(values, "scale_v")
    move = number(values, "move_u"), number(values, "move_v")
    turn, faces = number(values, "turn"), str(values["faces"])
    return ChangeUv(body.name, mirror, turn, scale, move, faces=faces, into=str(values["into"]))


def _seams_told(body: Body, values: Values) -> str:
    count = int(seams_of(body).sum()) // 2
    return f"{counted(count, 'edge is a seam', 'edges are seams')}." if count else "No edge is a seam yet."


UV_OPERATIONS = (
    Operation(
        "lay_uv", "Lay UV", "Lays texture coordinates by a projection.",
        (
            Choice("way", "Way", tuple((entry.name, entry.label, entry.help) for entry in PROJECTIONS.values()), "above",
                   "How the surface is laid flat."),
            *(replace(setting, only=setting.only or (("way", "plane"),)) for setting in PROJECTIONS["plane"].settings),
            Number("unit", "A unit is", "m", 0.0, 1_000_000.0, 0.0, "Metres that an image covers; 0: all of it in one.",
                   comfort=(0.0, 100.0), curve=2.0),
            *_SETS,
        ),
        _lay_uv, stage="deliver",
        from_view=lambda way: {"way": "plane", "plane": "typed", **dict(zip(WAYS, way, strict=True))},
    ),
    Operation(
        "unwrap_uv", "Unwrap", "Cuts the body into charts that lie flat beside each other, hardly stretched.",
        (
            Number("bent", "Bends count", "×", 0.1, 20.0, 2.0, "How much a bend counts against a chart: the smaller, the "
                   "fewer charts.", comfort=(0.5, 6.0)),
            *_RASTER, *_SETS,
        ),
        lambda body, values, other: UnwrapUv(
            body.name, str(values["faces"]), str(values["of"]), number(values, "bent"), round(number(values, "size")),
            round(number(values, "margin")), str(values["into"]),
        ),
        lambda body, values: f"{body.corners.live_count:,} triangles; about a minute for 100,000", stage="deliver",
    ),
    Operation(
        "change_uv", "Change UV", "Mirrors, turns, repeats and moves texture coordinates.",
        (
            Choice("mirror", "Mirror", (("no", "Not", "As it is."), ("u", "Left and right", "Left becomes right."),
                                        ("v", "Up and down", "It stands on its head.")), "no", "What is exchanged."),
            Number("turn", "Turn", "°", -360.0, 360.0, 0.0, "Counter-clockwise in the image.", comfort=(-180, 180)),
            Number("scale_u", "Repeat across", "×", -1000.0, 1000.0, 1.0, "How often more an image is repeated.",
                   comfort=(0.1, 10.0)),
            Number("scale_v", "Repeat down", "×", -1000.0, 1000.0, 1.0, "How often more an image is repeated.",
                   comfort=(0.1, 10.0)),
            Number("move_u", "Move right", "×", -1000.0, 1000.0, 0.0, "In widths of the image.", comfort=(-1.0, 1.0)),
            Number("move_v", "Move down", "×", -1000.0, 1000.0, 0.0, "In heights of the image.", comfort=(-1.0, 1.0)),
            Choice("faces", "What", (("all", "All", "The whole body."), ("chosen", "Chosen faces", "By hand."),
                                     ("charts", "Their charts", "Those in which faces are chosen."),
                                     ("edges", "Chosen edges", "Their ends."), ("vertices", "Chosen vertices", "By hand.")),
                   "all", "What is changed."), _SETS[2],
        ),
        _change_uv, stage="deliver",
    ),
    Operation(
        "pack_uv", "Pack UV", "Lays charts beside each other in one image.",
        (
            Switch("even", "Even density", True, "Every chart gets the same number of texels a metre."),
            Switch("turns", "Turn charts", True, "Charts may be turned to fit."),
            Switch("all", "With all bodies", False, "All bodies with the set share one image."),
            *_RASTER, _SETS[2],
        ),
        lambda body, values, other: PackUv(
            body.name, bool(values["even"]), bool(values["turns"]), round(number(values, "size")),
            round(number(values, "margin")), str(values["into"]), ("*",) if values["all"] else (),
        ), stage="deliver",
    ),
    Operation(
        "mark_seams", "Seams", "Marks edges along which the body is cut open to be unwrapped.",
        (
            Choice("by", "Edges", (
                ("chosen", "Chosen", "What is chosen of edges."), ("sharp", "Sharp ones", "That bend by an angle."),
                ("grounds", "Between grounds", "Where another ground lies thickest."),
                ("line", "Along a line", "That were cut along an outline or track."),
                ("charts", "Where UV is torn", "Rims of charts as they lie."),
            ), "chosen", "Which edges."),
            Number("angle", "Bends from", "°", 1.0, 180.0, 60.0, "What bends more counts as sharp.",
                   only=(("by", "sharp"),)),
            Text("name", "Name", "", "Of the outline or track; of UV, of the set, empty for the first.",
                 only=(("by", "line"), ("by", "charts"))),
            Choice("what", "Do", (("on", "Mark", "They become seams."), ("off", "Unmark", "They are none any more."),
                                  ("clear", "Unmark all", "No edge is a seam any more.")), "on", "What is done."),
        ),
        lambda body, values, other: MarkSeams(body.name, "all", False) if values["what"] == "clear" else MarkSeams(
            body.name, str(values["by"]), values["what"] == "on", number(values, "angle"), str(values["name"])
        ),
        _seams_told, stage="deliver",
    ),
    Operation(
        "unwrap_along_seams", "Unwrap by seams", "Cuts the body open along its seams and lays what comes of it flat.",
        (
            Choice("keep", "Keep", (("angles", "Angles", "Squares stay squares; some become larger than others."),
                                    ("both", "Angles and areas", "A little less square, more alike in size; slower.")),
                   "angles", "What is to change least."),
            Switch("pins", "Pinned by vertices", False, "Charts with two or more chosen vertices are laid anew with those "
                   "held where they lie; the others stay."),
            *_RASTER, *_SETS,
        ),
        lambda body, values, other: UnwrapAlongSeams(
            body.name, str(values["keep"]), str(values["faces"]), str(values["of"]), round(number(values, "size")),
            round(number(values, "margin")), bool(values["pins"]), str(values["into"]),
        ),
        _seams_told, stage="deliver",
    ),
    Operation(
        "relax_uv", "Relax UV", "Gives new or reshaped faces their place in the image anew; all others are held.",
        (
            Choice("faces", "Faces", (("stretched", "Stretched ones", "And those beside them."),
                                      ("chosen", "Chosen", "What is chosen by hand."), ("all", "All", "All but rims.")),
                   "stretched", "Which faces move."),
            Number("limit", "Stretched from", "×", 1.05, 100.0, 1.5, "Times the mean.", comfort=(1.1, 5.0),
                   only=(("faces", "stretched"),)),
            *_SETS[1:],
        ),
        lambda body, values, other: RelaxUv(
            body.name, str(values["faces"]), number(values, "limit"), str(values["of"]), str(values["into"])
        ), stage="deliver",
    ),
    Operation(
        "straighten_uv", "Straighten UV", "Lays rows of chosen edges on straight lines in the image.",
        (
            Choice("along", "Along", (("nearest", "What is nearer", "Across or down."), ("across", "Across", "Level."),
                                      ("down", "Down", "Upright."), ("ends", "End to end", "First to last point.")),
                   "nearest", "Which way the line runs."),
            _SETS[2],
        ),
        lambda body, values, other: StraightenUv(body.name, str(values["along"]), str(values["into"])),
        told("edge"), stage="deliver",
    ),
    Operation(
        "stack_uv", "Stack UV", "Lays the charts in which faces are chosen over each other, to share a piece of the image.",
        (Switch("even", "Even density", True, "They get the same number of texels a metre first."), _SETS[2]),
        lambda body, values, other: StackUv(body.name, bool(values["even"]), str(values["into"])),
        told("face"), stage="deliver",
    ),
)  # fmt: skip
