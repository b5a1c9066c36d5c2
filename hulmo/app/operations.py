"""What the Block out stage can do to a whole body. To add one: write its entry here and draw its icon."""

from hulmo.app.operation import WAYS, Operation, ways
from hulmo.app.uv_operations import UV_OPERATIONS
from hulmo.core.commands import (
    BankUp,
    Combine,
    Command,
    EvenOut,
    FillBorders,
    FlipFaces,
    JoinBodies,
    LayAround,
    MirrorBody,
    PlaceBody,
    Recast,
    Reduce,
    SetDown,
    SinkRim,
    SplitBody,
    StandBody,
    StitchBorders,
    Subdivide,
    UnstitchBorders,
    Weld,
)
from hulmo.core.commands.remesh import recast_count
from hulmo.core.mesh.body import Body
from hulmo.core.setting import Choice, Number, Switch, Values, number


def _down(body: Body, values: Values, other: str) -> Command:
    kind = str(values["kind"])
    if kind == "way":
        east, up, north = (number(values, f"toward_{way}") for way in WAYS)
        return SetDown(body.name, kind, (east, up, 0.0 - north))
    return SetDown(body.name, kind, sea=number(values, "sea") if kind == "centre" and not values["mean"] else None)


def _place(body: Body, values: Values, other: str) -> Command:
    (east, up, north), turn, scale = (
        tuple(number(values, f"{name}_{way}") for way in WAYS) for name in ("move", "turn", "scale")
    )
    return PlaceBody(
        body.name,
        (east, up, 0.0 - north),  # 0.0 - 0.0 is 0, and not -0
        (turn[0], turn[1], 0.0 - turn[2]),
        tuple(part / 100 for part in scale),  # type: ignore[arg-type]
    )


def _reduce(body: Body, values: Values, other: str) -> Command:
    by = values["by"]
    if by == "count":
        return Reduce(body.name, count=int(number(values, "count")))
    if by == "error":
        return Reduce(body.name, error=number(values, "error"))
    return Reduce(body.name, share=number(values, "share") / 100)


def _reduced(body: Body, values: Values) -> str:
    have = body.corners.live_count
    if values["by"] == "error":
        return f"{have:,} triangles become as few as the error allows"
    after = number(values, "count") if values["by"] == "count" else have * number(values, "share") / 100
    return f"{have:,} triangles become {int(after):,}"


def _subdivided(body: Body, values: Values) -> str:
    have = body.corners.live_count
    return f"{have:,} triangles become {4 * have:,}"


SURFACE = (("how", "surface"), ("how", "auto"))
"""What settings of Recast depend on that have no effect by volume."""

OPERATIONS: dict[str, Operation] = {
    entry.name: entry
    for entry in (
        Operation(
            "place", "Place", "Moves, turns and scales the body about its own middle.",
            (
                *ways("move", "Move", "m", -1e5, 1e5, 0.0, "Metres this way.", 50.0),
                *ways("turn", "Turn about", "°", -360.0, 360.0, 0.0,
                       "Degrees, counter-clockwise for one toward whom this way points.", 180.0),
                *ways("scale", "Scale", "%", 0.01, 1e6, 100.0, "Size along this way.", 90.0),
            ),
            _place,
        ),
        Operation(
            "plumb", "Down", "Says which way is down: slopes, heights, slumping, terraces and rules follow.",
            (
                Choice("kind", "Down is", (
                    ("level", "The same everywhere", "For islands, cliffs, caves: along the upright of the world."),
                    ("centre", "Toward its middle", "For moons and planets."),
                    ("way", "Along a direction", "For a piece that stands askew."),
                ), "centre", "Which way down is for this body."),
                Switch("mean", "Sea at the mean radius", True, "Heights count from the mean distance to the middle.",
                       only=(("kind", "centre"),)),
                Number("sea", "Sea", "m", 0.0, 1e8, 40.0, "Radius of the sea, from which heights count.",
                       comfort=(1.0, 200.0), curve=2.0, only=(("mean", False),)),
                *(Number(f"toward_{way}", f"Toward {way}", "", -1.0, 1.0, -1.0 if way == "up" else 0.0,
                         "How far the way down goes in this direction.", only=(("kind", "way"),)) for way in WAYS),
            ),
            _down,
        ),
        Operation(
            "stand", "Set on ground", "Lets the body down until its lowest places meet another body's ground.",
            (
                Number("lean", "Lean", "%", 0.0, 100.0, 0.0, "How far it first turns with the ground under it."),
                Number("sink", "Sink", "m", -1000.0, 1000.0, 0.0, "How much further it is let down.", comfort=(0.0, 2.0)),
            ),
            lambda body, values, other: StandBody(
                body.name, other, number(values, "lean") / 100, number(values, "sink")
            ),
            needs_other=True,
        ),
        Operation(
            "bank_up", "Bank up", "Raises the ground around the foot of another body, so that its rim disappears.",
            (
                Number("height", "Height", "m", -1000.0, 1000.0, 0.3, "How far the ground rises at the foot.",
                       comfort=(-2, 2)),
                Number("falloff", "Fades over", "m", 0.001, 10_000.0, 1.5, "How far beyond the foot.", comfort=(0.1, 10.0),
                       curve=2.0),
            ),
            lambda body, values, other: BankUp(
                body.name, other, (), number(values, "height"), number(values, "falloff")
            ),
            needs_other=True, stage="dress",
        ),
        Operation(
            "sink_rim", "Sink rim", "Draws the lower rim of the body down through the ground of another one.",
            (
                Number("height", "Up to", "m", 0.001, 10_000.0, 0.6, "How far above the ground it is drawn along.",
                       comfort=(0.1, 5.0), curve=2.0),
                Number("below", "Below", "m", 0.0, 10_000.0, 0.2, "How far under the ground its rim comes to lie.",
                       comfort=(0.0, 2.0), curve=2.0),
            ),
            lambda body, values, other: SinkRim(body.name, other, number(values, "height"), number(values, "below")),
            needs_other=True, stage="dress",
        ),
        Operation(
            "lay_around", "Lay ground around", "Paints the lower part of the body like the ground of another one around it.",
            (
                Number("height", "Height", "m", 0.001, 10_000.0, 0.6, "How far up from the ground it fades out.",
                       comfort=(0.1, 5.0), curve=2.0),
                Number("ragged", "Ragged", "%", 0.0, 100.0, 40.0, "How uneven its upper end is."),
            ),
            lambda body, values, other: LayAround(
                body.name, other, number(values, "height"), number(values, "ragged") / 100
            ),
            needs_other=True, stage="dress",
        ),
        *UV_OPERATIONS,
        Operation(
            "mirror", "Mirror", "Turns the body over along one axis, about its own middle.",
            (Choice("axis", "Exchanges", (("x", "East and west", "Left becomes right for one who looks north."),
                                            ("y", "Up and down", "It stands on its head."),
                                            ("z", "North and south", "Front becomes back for one who looks north.")),
                    "x", "What is exchanged."),),
            lambda body, values, other: MirrorBody(body.name, str(values["axis"])),
        ),
        Operation(
            "combine", "Combine", "Adds another body, cuts it away, or keeps what both share. Both must be closed.",
            (
                Choice(
                    "how", "How",
                    (("add", "Add", "Both become one."), ("cut", "Cut", "The other is taken away."),
                     ("common", "Keep common", "Only what both share stays.")),
                    "add", "What becomes of the two.",
                ),
                Switch("keep", "Keep the other body", False, "Otherwise it leaves the project."),
            ),
            lambda body, values, other: Combine(body.name, other, str(values["how"]), bool(values["keep"])),
            needs_other=True,
        ),
        Operation(
            "join", "Join", "Puts another body's triangles into this one, as they are.", (),
            lambda body, values, other: JoinBodies(body.name, other),
            needs_other=True,
        ),
        Operation(
            "split", "Split", "Makes every connected part a body of its own.", (),
            lambda body, values, other: SplitBody(body.name),
        ),
        Operation(
            "subdivide", "Subdivide", "Splits every triangle in four.",
            (Switch("smooth", "Draw it smooth", False, "Toward the smooth surface after Loop; otherwise the shape stays."),),
            lambda body, values, other: Subdivide(body.name, bool(values["smooth"])),
            _subdivided,
        ),
        Operation(
            "reduce", "Reduce", "Fewer triangles; shape, borders, grounds and layers are kept.",
            (
                Choice(
                    "by", "To",
                    (("share", "A share", "Of the triangles there are."), ("count", "A count", "Of triangles."),
                     ("error", "An error", "As few as stay within so many metres.")),
                    "share", "What it is reduced to.",
                ),
                Number("share", "Share", "%", 0.1, 99.0, 50.0, "Of the triangles there are.", only=(("by", "share"),)),
                Number("count", "Triangles", "", 4, 50_000_000, 50_000, "To keep.", comfort=(1000, 1_000_000), curve=3.0,
                       whole=True, only=(("by", "count"),)),
                Number("error", "Error", "m", 0.0001, 1000.0, 0.05, "Furthest that any point may come off the surface.",
                       comfort=(0.005, 2.0), curve=3.0, only=(("by", "error"),)),
            ),
            _reduce,
            _reduced,
        ),
        Operation(
            "recast", "Recast", "Rebuilds the body with even triangles at a wanted edge length.",
            (
                Number("edge", "Edge length", "m", 0.0001, 100_000.0, 0.5, "Wanted length of edges.", comfort=(0.05, 5.0),
                       curve=3.0),
                Choice(
                    "how", "Follows",
                    (
                        ("auto", "What suits", "By volume where the body is closed, along the surface where it is open."),
                        ("volume", "The volume", "Joins parts that overlap, heals what crosses itself; creases get round."),
                        ("surface", "The surface", "Keeps creases, borders and what is guarded."),
                    ),
                    "auto", "What the new triangles are laid around.",
                ),
                Number("sharp", "Keep creases from", "°", 1.0, 180.0, 60.0,
                       "Along the surface: edges that bend more stay; 180 keeps none.", only=SURFACE),
                Number("passes", "Passes", "", 1, 20, 5, "Along the surface: more passes, more even.", whole=True,
                       only=SURFACE),
            ),
            lambda body, values, other: Recast(
                body.name, number(values, "edge"), "" if values["how"] == "auto" else str(values["how"]),
                int(number(values, "passes")), number(values, "sharp"),
            ),
            lambda body, values: f"{body.corners.live_count:,} triangles become about "
            f"{recast_count(body, number(values, 'edge')):,}",
        ),
        Operation(
            "even", "Even triangles", "Slides vertices along the surface until triangles are well shaped.",
            (Number("passes", "Passes", "", 1, 200, 10, "More passes, more even.", comfort=(1, 50), whole=True),),
            lambda body, values, other: EvenOut(body.name, int(number(values, "passes"))),
        ),
        Operation(
            "weld", "Weld", "Makes double vertices one.",
            (Number("tolerance", "Within", "m", 0.00001, 1000.0, 0.001, "Vertices that lie this near become one.",
                    comfort=(0.0001, 0.5), curve=3.0),),
            lambda body, values, other: Weld(body.name, number(values, "tolerance")),
        ),
        Operation(
            "stitch", "Stitch borders", "Makes the borders of all bodies shown fit where they meet, and keeps them so.",
            (
                Choice("what", "Do", (("stitch", "Stitch", "One place, one normal, the same grounds; strokes go over."),
                                        ("undo", "Let go", "Every body has a border of its own again.")),
                       "stitch", "Whether borders are to be stitched."),
                Number("within", "Within", "m", 0.00001, 100.0, 0.001, "Border vertices of two bodies that lie this near "
                       "are stitched.", comfort=(0.0001, 0.5), curve=3.0, only=(("what", "stitch"),)),
            ),
            lambda body, values, other: StitchBorders((), number(values, "within"))
            if values["what"] == "stitch" else UnstitchBorders(),
        ),
        Operation(
            "close", "Fill borders", "Closes every border loop.", (), lambda body, values, other: FillBorders(body.name)
        ),
        Operation(
            "flip", "Flip faces", "Turns the inside out.", (), lambda body, values, other: FlipFaces(body.name)
        ),
    )
}  # fmt: skip
