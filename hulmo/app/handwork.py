"""What the By hand stage does to what is chosen. To add one: write its entry here and draw its icon."""

import math

from hulmo.app.operation import Operation, ways
from hulmo.app.told import told
from hulmo.core.commands import (
    BridgeChosen,
    Cap,
    CollapseChosen,
    Command,
    CutLevels,
    DeleteChosen,
    EvenChosen,
    ExtendBorder,
    Extrude,
    FillChosen,
    Inset,
    JitterChosen,
    LayOnFaces,
    MoveChosen,
    SetCrease,
    SetFacets,
    SplitChosen,
    Thicken,
    TurnEdges,
)
from hulmo.core.commands.made_by_hand import FARTHEST
from hulmo.core.mesh.body import Body
from hulmo.core.setting import Choice, Number, Switch, Text, Values, number

TIDY = Switch("tidy", "Tidy triangles", True, "Turns edges where thin triangles would be left.")

EVEN = Switch("tidy", "Even faces", True, "New faces get edges about as long as those at their rim.")

CHOSEN = (("what", "chosen"),)

HAND_SETTINGS = (
    Choice("what", "Grips take", (
        ("chosen", "What is chosen", "Vertices, edges or faces."), ("body", "The whole body", "All of it, as it is."),
    ), "chosen", "What is dragged."),
    Choice("frame", "Arms", (
        ("world", "East, up, north", "As the world lies."), ("normal", "Along the surface", "By the mean normal."),
        ("view", "Across the view", "As one looks."),
    ), "world", "Which ways the arms point."),
    Choice("about", "About", (
        ("middle", "The middle", "Of all that is chosen."),
        ("each", "Each part", "Every part that hangs together about its own middle."),
        ("place", "A point", "Where you press next on the surface; until then the middle."),
    ), "middle", "What turning and scaling keep in place.", only=CHOSEN),
    Number("reach", "Soft reach", "m", 0.0, 10_000.0, 0.0, "How far what is not chosen goes along.", comfort=(0.0, 20.0),
           curve=3.0, only=CHOSEN),
    Choice("over", "Measured", (
        ("surface", "Over the surface", "Along it."), ("space", "Through space", "Straight."),
    ), "surface", "How the reach is measured.", only=CHOSEN),
    Choice("falloff", "Falloff", (
        ("smooth", "Smooth", "Rounded at both ends."), ("dome", "Dome", "Full for long, steep at the end."),
        ("sharp", "Sharp", "A peak."), ("linear", "Linear", "A straight slope."),
    ), "smooth", "How it fades.", only=CHOSEN),
    Number("step_move", "Step", "m", 0.0, 1000.0, 0.0, "Drags along an arm go by whole steps; 0: freely.", comfort=(0.0, 5.0),
           curve=2.0),
    Number("step_turn", "Step of turns", "°", 0.0, 180.0, 0.0, "Turns go by whole steps; 0: freely.", comfort=(0.0, 45.0)),
    Choice("snap", "Middle snaps", (
        ("off", "To nothing", "It goes where it is dragged."), ("vertex", "To vertices", "Of what is under the pointer."),
        ("surface", "To surfaces", "Under the pointer."),
    ), "off", "What a drag by the middle takes what is chosen to: other bodies, and what is not chosen of this one."),
    Switch("slide", "Along the surface", False, "What is moved stays on the surface as it was.", only=CHOSEN),
    Choice("mirror", "Opposite too", (
        ("none", "Off", "Only what is chosen."), ("x", "East and west", "What lies opposite moves likewise."),
        ("z", "North and south", "What lies opposite moves likewise."),
    ), "none", "Vertices opposite about the upright plane through 0 m.",
       only=CHOSEN),
)  # fmt: skip
"""How what is chosen is dragged."""


def _domain(values: Values) -> str:
    return str(values["domain"])


def _parts(*domains: str) -> Choice:
    words = {
        "face": ("face", "Chosen faces", "What is chosen of faces."),
        "edge": ("edge", "Chosen edges", "What is chosen of edges."),
        "vertex": ("vertex", "Chosen vertices", "What is chosen of vertices."),
    }
    return Choice("domain", "Of", tuple(words[domain] for domain in domains), domains[0], "Which choice is meant.")


def _extrude(body: Body, values: Values, other: str) -> Command:
    return Extrude(body.name, number(values, "distance"), str(values["along"]), lip=number(values, "lip"))


HANDWORK: dict[str, Operation] = {
    entry.name: entry
    for entry in (
        Operation(
            "by_numbers", "Numbers", "Moves, turns and scales what is chosen by typed numbers.",
            (
                _parts("face", "edge", "vertex"),
                Choice("kind", "Do", (
                    ("move", "Move", "By metres."), ("turn", "Turn", "About its middle."), ("scale", "Scale", "About it."),
                ), "move", "What is done."),
                *ways("move", "Move", "m", -1e5, 1e5, 0.0, "Metres this way.", 10.0, (("kind", "move"),)),
                *ways("turn", "Turn about", "°", -360.0, 360.0, 0.0, "Counter-clockwise.", 180.0, (("kind", "turn"),)),
                *ways("scale", "Scale", "%", -1e6, 1e6, 100.0, "Size along this way.", 90.0, (("kind", "scale"),)),
            ),
            lambda body, values, other: _by_numbers(body, values), told("face"),
        ),
        Operation(
            "extrude", "Extrude", "Pulls the chosen faces out, with walls around them.",
            (
                Number("distance", "Distance", "m", -10_000.0, 10_000.0, 1.0, "Below 0 inward.", comfort=(-5.0, 5.0)),
                Choice("along", "Along", (
                    ("mean", "Mean normal", "All the same way."), ("own", "Own normals", "Each vertex its own way."),
                    ("axis", "Straight up", "All upward."),
                ), "mean", "Which way they go."),
                Number("lip", "Lip", "m", -1000.0, 1000.0, 0.0, "How far the rim goes outward first.", comfort=(0.0, 2.0)),
            ),
            _extrude, told("face"),
        ),
        Operation(
            "extend", "Extend", "Puts a row of faces outward of the chosen border edges.",
            (Number("distance", "Distance", "m", 0.001, 10_000.0, 1.0, "How far out.", comfort=(0.05, 5.0), curve=2.0),),
            lambda body, values, other: ExtendBorder(body.name, number(values, "distance")), told("edge"),
        ),
        Operation(
            "inset", "Inset", "Draws the rim of the chosen faces inward.",
            (Number("distance", "Distance", "m", -1000.0, 1000.0, 0.3, "How far; below 0 outward.", comfort=(0.0, 3.0)),),
            lambda body, values, other: Inset(body.name, number(values, "distance")), told("face"),
        ),
        Operation(
            "cap", "Cap", "Gives all that faces up a lip, a thickness and a ground; walls stay flat.",
            (
                Number("angle", "Up to", "°", 1.0, 89.0, 40.0, "What leans no further than this counts as facing up."),
                Number("lip", "Lip", "m", 0.0, 1000.0, 0.3, "How far it juts out.", comfort=(0.0, 3.0)),
                Number("thick", "Thickness", "m", 0.001, 1000.0, 0.4, "How high it is.", comfort=(0.05, 3.0)),
                Text("ground", "Ground", "", "Name of the ground of the cap; empty: what lies there."),
                Switch("flat", "Flat walls", True, "All other faces are drawn flat."),
                Switch("only_high", "Only above a height", False, "Lower down nothing counts as facing up."),
                Number("above", "Above", "m", -1e6, 1e6, 0.0, "The height.", comfort=(-50.0, 50.0),
                       only=(("only_high", True),)),
            ),
            lambda body, values, other: Cap(
                body.name, number(values, "angle"), number(values, "lip"), number(values, "thick"), str(values["ground"]),
                bool(values["flat"]), number(values, "above") if values["only_high"] else -FARTHEST,
            ),
        ),
        Operation(
            "take_out", "Take out", "Takes faces out of the body.",
            (
                _parts("face", "edge", "vertex"), Switch("close", "Close the hole", False, "New faces close it again."),
                EVEN,
            ),
            lambda body, values, other: DeleteChosen(
                body.name, _domain(values), bool(values["close"]), bool(values["tidy"])
            ),
            told("face"),
        ),
        Operation(
            "close_up", "Close up", "Closes the border loops that what is chosen lies at.",
            (_parts("edge", "vertex", "face"), EVEN),
            lambda body, values, other: FillChosen(body.name, _domain(values), bool(values["tidy"])), told("edge"),
        ),
        Operation(
            "bridge", "Bridge", "Joins two border loops by a band.", (_parts("edge", "vertex", "face"), EVEN),
            lambda body, values, other: BridgeChosen(body.name, _domain(values), bool(values["tidy"])), told("edge"),
        ),
        Operation(
            "halve", "Halve", "Puts vertices in the middle of edges.", (_parts("edge", "face"), TIDY),
            lambda body, values, other: SplitChosen(body.name, _domain(values), bool(values["tidy"])), told("edge"),
        ),
        Operation(
            "merge", "Merge", "Makes the ends of edges one vertex.", (_parts("edge", "face"),),
            lambda body, values, other: CollapseChosen(body.name, _domain(values)), told("edge"),
        ),
        Operation(
            "turn_edge", "Turn edge", "Turns edges to join the corners across.", (),
            lambda body, values, other: TurnEdges(body.name), told("edge"),
        ),
        Operation(
            "levels", "Level cuts", "Cuts edges into the body, evenly spaced.",
            (
                Number("levels", "Cuts", "", 1, 500, 5, "How many.", comfort=(1, 30), whole=True),
                Number("bearing", "Bearing", "°", 0.0, 360.0, 0.0, "Of what the cuts are square to: 0 north, 90 east."),
                Number("altitude", "Altitude", "°", -90.0, 90.0, 90.0, "90: level cuts; 0: upright ones."),
                TIDY,
            ),
            lambda body, values, other: CutLevels(
                body.name, _axis(values), levels=int(number(values, "levels")), tidy=bool(values["tidy"])
            ),
        ),
        Operation(
            "thicken", "Thicken", "Makes a body of a sheet.",
            (Number("thickness", "Thickness", "m", 0.001, 1000.0, 0.5, "How far behind it its other side is.",
                    comfort=(0.05, 5.0)),),
            lambda body, values, other: Thicken(body.name, number(values, "thickness")),
        ),
        Operation(
            "even_shape", "Even shape", "Brings what is chosen into a plane, a circle, or rest.",
            (
                _parts("vertex", "edge", "face"),
                Choice("into", "Into", (
                    ("plane", "A plane", "The one nearest to all."), ("level", "A level plane", "Through the middle."),
                    ("upright", "An upright plane", "The one nearest to all."),
                    ("circle", "A circle", "In the nearest plane."),
                    ("smooth", "Rest", "Toward the middle of neighbours."),
                ), "plane", "What it becomes."),
                Number("amount", "Amount", "%", 0.0, 100.0, 100.0, "How far it goes there."),
            ),
            lambda body, values, other: EvenChosen(
                body.name, _domain(values), str(values["into"]), number(values, "amount") / 100.0
            ),
            told("vertex"),
        ),
        Operation(
            "shake", "Shake", "Moves vertices, or turns faces, by chance.",
            (
                _parts("vertex", "edge", "face"),
                Number("metres", "Amount", "m", 0.0, 1000.0, 0.1, "The most that a vertex moves.", comfort=(0.0, 2.0),
                       only=(("domain", "vertex"), ("domain", "edge"))),
                Number("degrees", "Amount", "°", 0.0, 90.0, 8.0, "The most that a face turns.", only=(("domain", "face"),)),
                Number("seed", "Seed", "", 0, 9999, 1, "Another number gives another chance.", whole=True),
            ),
            lambda body, values, other: JitterChosen(
                body.name, _domain(values), number(values, "degrees" if _domain(values) == "face" else "metres"),
                int(number(values, "seed")),
            ),
            told("vertex"),
        ),
        Operation(
            "facets", "Facets", "Draws faces flat, or smooth again.",
            (
                Switch("flat", "Flat", True, "Each with its own normal."),
                Switch("every", "All faces", False, "Whether they are chosen or not."),
            ),
            lambda body, values, other: SetFacets(body.name, bool(values["flat"]), bool(values["every"])), told("face"),
        ),
        Operation(
            "face_ground", "Face ground", "Has one ground alone lie on faces, with no blend over their rim.",
            (Text("ground", "Ground", "", "Name of the ground; empty gives the faces back to their vertices."),),
            lambda body, values, other: LayOnFaces(body.name, str(values["ground"])), told("face"),
        ),
        Operation(
            "crease", "Crease", "Keeps edges sharp where the body is divided smoothly or remeshed.",
            (Switch("on", "Sharp", True, "Off takes the crease away."),),
            lambda body, values, other: SetCrease(body.name, 1.0 if values["on"] else 0.0), told("edge"),
        ),
    )
}  # fmt: skip


def _by_numbers(body: Body, values: Values) -> Command:
    kind = str(values["kind"])
    east, up, north = (number(values, f"{kind}_{way}") for way in ("east", "up", "north"))
    if kind == "scale":
        return MoveChosen(body.name, _domain(values), scale=(east / 100, up / 100, north / 100))
    way = (east, up, 0.0 - north)
    if kind == "turn":
        return MoveChosen(body.name, _domain(values), turn=way)
    return MoveChosen(body.name, _domain(values), way)


def _axis(values: Values) -> tuple[float, float, float]:
    bearing, altitude = (math.radians(number(values, name)) for name in ("bearing", "altitude"))
    level = math.cos(altitude)
    return math.sin(bearing) * level, math.sin(altitude), -math.cos(bearing) * level
