"""The looks: what a picture of the scene shows."""

from dataclasses import dataclass

from hulmo.core.ground.key import KEY
from hulmo.core.mesh.body import Bounds
from hulmo.core.setting import Choice, Number, Setting, Value, Values, number

Colour = tuple[float, float, float]


@dataclass(frozen=True)
class Legend:
    """What the colours of a measuring look mean.

    Attributes
    ----------
    title : str
    ramp : tuple of colours
        sRGB 0 to 1, evenly spaced from left to right.
    marks : tuple of (place, text)
        Place 0 (left) to 1 (right).
    note : str
    key : tuple of (colour, text)
        What single colours stand for.
    """

    title: str
    ramp: tuple[Colour, ...]
    marks: tuple[tuple[float, str], ...]
    note: str = ""
    key: tuple[tuple[Colour, str], ...] = ()


@dataclass(frozen=True)
class Look:
    """One way to look at the scene.

    Attributes
    ----------
    name, label, help, key : str
    fragment : str
        Fragment shader.
    textured : bool
        Whether grounds are drawn with their textures.
    shaded : bool
        Whether sun and sky act.
    sky : bool
        Whether the background is the sky rather than a plain page.
    geometry : str
        Geometry shader; empty for none.
    weighted : bool
        Whether it needs the weights of vertices, though not the textures.
    plain_figures : bool
        Whether its colours are figures to be read off, which no curve changes.
    curved : bool
        Whether it needs the curvature of vertices.
    settings : tuple
        What can be adjusted about it.
    by_uv : bool
        Whether it needs texture coordinates.
    by_face : bool
        Whether it shows figures of faces.
    measure : int
        0, or which measure `measure.frag` (up to 10) or `paint.frag` shows.
    ramp : tuple of colours
        Five colours of a measuring look.
    """

    name: str
    label: str
    help: str
    key: str
    fragment: str
    textured: bool = False
    shaded: bool = False
    sky: bool = False
    geometry: str = ""
    curved: bool = False
    settings: tuple[Setting, ...] = ()
    measure: int = 0
    ramp: tuple[Colour, ...] = ()
    weighted: bool = False
    plain_figures: bool = False
    by_uv: bool = False
    by_face: bool = False

    @property
    def in_menu(self) -> bool:
        """Whether it is one of those that are chosen now and then."""
        return self.measure > 0 or self.plain_figures


SAND: tuple[Colour, ...] = (
    (0.36, 0.25, 0.16),
    (0.55, 0.40, 0.26),
    (0.72, 0.58, 0.41),
    (0.86, 0.76, 0.60),
    (0.96, 0.91, 0.80),
)
SEA: tuple[Colour, ...] = (
    (0.93, 0.95, 0.92),
    (0.70, 0.82, 0.82),
    (0.42, 0.63, 0.66),
    (0.19, 0.42, 0.47),
    (0.06, 0.21, 0.27),
)
INDIGO: tuple[Colour, ...] = (
    (0.09, 0.13, 0.33), (0.29, 0.36, 0.58), (0.60, 0.64, 0.76), (0.82, 0.84, 0.89), (0.98, 0.98, 0.99),
)  # fmt: skip
OCHRE: tuple[Colour, ...] = (
    (0.93, 0.91, 0.85),
    (0.93, 0.91, 0.85),
    (0.90, 0.72, 0.42),
    (0.76, 0.44, 0.12),
    (0.42, 0.19, 0.03),
)

MOSS: tuple[Colour, ...] = (
    (0.93, 0.93, 0.89),
    (0.75, 0.82, 0.68),
    (0.49, 0.66, 0.47),
    (0.23, 0.46, 0.34),
    (0.06, 0.25, 0.24),
)
PLUM: tuple[Colour, ...] = (
    (0.92, 0.91, 0.88),
    (0.92, 0.91, 0.88),
    (0.82, 0.62, 0.72),
    (0.62, 0.30, 0.52),
    (0.30, 0.07, 0.30),
)
SLATE: tuple[Colour, ...] = (
    (0.30, 0.34, 0.40), (0.40, 0.44, 0.50), (0.62, 0.65, 0.68), (0.88, 0.88, 0.86), (0.95, 0.95, 0.93),
)  # fmt: skip
TEAL_RUST: tuple[Colour, ...] = (
    (0.55, 0.24, 0.08), (0.82, 0.58, 0.38), (0.93, 0.92, 0.88), (0.50, 0.70, 0.72), (0.08, 0.36, 0.42),
)  # fmt: skip
UNSEEN: Colour = (0.20, 0.17, 0.24)
"""What no viewpoint ever sees."""

_FORM: tuple[Setting, ...] = (
    Choice(
        "light",
        "Light",
        (
            ("sun", "Sun of the project", "As under Light, with shadows."),
            ("view", "Turns with the view", "A lamp that goes with you."),
            ("fixed", "Stays", "A lamp that stands still."),
        ),
        "view",
        "Where light comes from while you judge the shape.",
    ),
    Number("bearing", "From", "°", -180.0, 180.0, -45.0, "Beside the view: negative from the left, positive from the right. "
           "A lamp that stays: from north, over east.", only=(("light", "view"), ("light", "fixed"))),
    Number("altitude", "Height", "°", -30.0, 90.0, 40.0, "How high the lamp stands; low light shows small relief.",
           only=(("light", "view"), ("light", "fixed"))),
    Number("cavity", "Cavity shading", "%",
                 0.0, 200.0, 70.0, "Darkens hollows and lightens edges, so that small relief shows."),
)  # fmt: skip

LOOKS: dict[str, Look] = {
    look.name: look
    for look in (
        Look("lit", "Lit", "Grounds under sun and sky, as delivered.", "1", "ground.frag",
                 textured=True, shaded=True, sky=True),
        Look("ground", "Unlit", "The blended ground colours without light.", "2", "ground.frag", textured=True),
        Look("normals", "Normals", "Directions of the surface with the normal maps of its grounds: red east, green up, "
                 "blue south.", "Shift+F11", "ground.frag", textured=True, plain_figures=True),
        Look("roughness", "Roughness", "How rough the blended grounds are: black smooth, white rough.", "Shift+F12",
                 "ground.frag", textured=True, plain_figures=True),
        Look("form", "Form", "Plain clay, to judge the shape.", "3", "form.frag", shaded=True, curved=True, settings=_FORM),
        Look("mesh", "Mesh", "Clay with all mesh edges.", "4", "form.frag", shaded=True, geometry="mesh.geom"),
        Look(
            "height", "Height", "Bands of height with contour lines.", "5", "measure.frag", measure=1, ramp=SAND,
            settings=(
                Number("interval", "Lines every", "m", 0.01, 1000.0, 1.0, "Metres of height from one contour to the next; "
                       "every fifth is stronger.", comfort=(0.1, 20.0), curve=3.0),
            ),
        ),
        Look(
            "slope", "Slope", "How steep the surface is.", "6", "measure.frag", measure=2, ramp=SEA,
            settings=(
                Number("mark", "Line at", "°", 0.0, 180.0, 34.0, "A line where the surface is as steep as this: 34 is "
                       "loose sand at rest."),
            ),
        ),
        Look(
            "curvature", "Curvature", "Ridges and hollows.", "7", "measure.frag", measure=3, ramp=INDIGO, curved=True,
            settings=(
                Number("radius", "Full at radius", "m", 0.01, 1000.0, 2.0, "What is rounded with this radius or tighter gets "
                       "the full colour.", comfort=(0.1, 40.0), curve=3.0),
            ),
        ),
        Look(
            "stretch", "Pulled long", "Triangles with edges much longer than the body's mean.", "8", "measure.frag",
            measure=4, ramp=OCHRE, geometry="stretch.geom",
            settings=(
                Number("limit", "Too long from", "times", 1.1, 20.0, 2.0, "Longest edge of a triangle, in mean edges of "
                       "the body.", comfort=(1.1, 8.0)),
            ),
        ),
        Look(
            "views", "Pixels a triangle", "How many pixels triangles take from the viewpoints together, and what is never "
            "seen.", "Ctrl+F8", "measure.frag", measure=5, ramp=TEAL_RUST[::-1], by_face=True,
            settings=(
                Number("wanted", "Wanted", "px", 1.0, 1_000_000.0, 120.0, "Pixels of a picture of 1920 by 1080 that a "
                       "triangle should take at the most.", comfort=(10, 1000), curve=2.0),
            ),
        ),
        Look(
            "uv_squares", "UV squares", "Squares of the texture coordinates, each in its own shade, with a mark where up is.",
            "Ctrl+F9", "uv.frag", measure=18, ramp=TEAL_RUST, weighted=True, by_uv=True,
            settings=(Number("squares", "Squares", "a unit", 1, 1024, 16.0, "To a unit.", comfort=(2, 128), whole=True),),
        ),
        Look("uv_stretch", "UV stretch", "How much the surface is stretched in its texture coordinates.", "Ctrl+F10",
             "uv.frag",
             measure=19, ramp=TEAL_RUST, weighted=True, by_uv=True),
        Look(
            "uv_texels", "Texels a metre", "Texels of an image for every metre, by the texture coordinates.", "Ctrl+F11",
            "uv.frag", measure=20, ramp=TEAL_RUST, weighted=True, by_uv=True,
            settings=(Number("size", "Image", "px", 16, 16384, 2048.0, "Texels a side.", comfort=(256, 8192), whole=True),),
        ),
        Look("weight", "Weight of ground in hand", "How much of the ground in hand lies where.", "Shift+F6", "paint.frag",
                 measure=11, ramp=MOSS, weighted=True),
        Look("dominant", "Dominant ground", "Which ground makes up most of what lies there.", "Ctrl+F7", "paint.frag",
                 measure=12, ramp=MOSS, weighted=True),
        Look("hand", "Hand paint", "What was painted by hand, and what the rules say.", "F8", "paint.frag",
                 measure=15, ramp=PLUM, weighted=True),
        Look("crowd", "Many grounds", "Where more grounds meet than the target allows.", "Shift+F7", "paint.frag",
                 measure=13, ramp=OCHRE, weighted=True),
        Look(
            "coarse", "Coarse borders", "Borders between grounds on triangles too large to show them.", "F10",
            "paint.frag", measure=14, ramp=OCHRE, weighted=True, geometry="coarse.geom",
            settings=(
                Number("limit", "Edges longer than", "m", 0.001, 100.0, 0.25, "Edges up to this length show a border as "
                       "sharp as it is wanted.", comfort=(0.02, 4.0), curve=3.0),
            ),
        ),
        Look(
            "checker", "Checker", "Squares of one metre, to judge size.", "F11", "paint.frag", measure=16, ramp=SLATE,
            weighted=True,
            settings=(Number("size", "Squares", "m", 0.01, 1000.0, 1.0, "Length of a side.", comfort=(0.1, 10.0), curve=3),),
        ),
        Look(
            "density", "Texel density", "Pixels of texture for every metre of ground.", "F12", "paint.frag", measure=17,
            ramp=TEAL_RUST, weighted=True,
            settings=(
                Number("wanted", "Wanted", "px/m", 1.0, 100_000.0, 256.0, "Pixels a metre that the delivery asks for.",
                       comfort=(32.0, 4096.0), curve=3.0),
            ),
        ),
    )
}  # fmt: skip


SHARES = Look("shares", "Ground shares", "How much of four grounds is seen where.", "", "ground.frag", textured=True,
              plain_figures=True)  # fmt: skip
"""Writes figures for others to read; not one to look at."""


def first_values() -> dict[str, Values]:
    """Defaults of the settings of every look."""
    return {look.name: {setting.name: setting.default for setting in look.settings} for look in LOOKS.values()}


def legend(
    look: Look,
    values: dict[str, Value],
    bounds: Bounds,
    grounds: tuple[str, ...] = (),
    ground: int = 0,
    together: int = 4,
    heights: tuple[float, float] | None = None,
) -> Legend | None:
    """The legend of a measuring look; None for the others.

    Parameters
    ----------
    look : Look
    values : dict
        Its settings.
    bounds : Bounds
        Of what is shown.
    grounds : tuple of str
        Names of the palette.
    ground : int
        Column of the one in hand.
    together : int
        Grounds that the target allows at a vertex.
    heights : tuple of float, optional
        Least and greatest height, metres, where down is not that of the world.
    """
    if look.name == "weight":
        quarters = ((0.0, "0 %"), (0.25, "25"), (0.5, "50"), (0.75, "75"), (1.0, "100 %"))
        return Legend(f"Weight of {grounds[ground] if grounds else 'ground'}", look.ramp, quarters)
    if look.name == "dominant":
        return Legend(look.label, (), (), key=tuple(zip(KEY, grounds, strict=False)))
    if look.name == "hand":
        return Legend(look.label, look.ramp[1:], ((0.0, "by rule"), (1.0, "by hand")))
    if look.name == "crowd":
        return Legend(
            look.label,
            look.ramp[1:],
            ((0.0, f"up to {together}"), (1.0, f"{together + 2} and more")),
            "grounds at a vertex",
        )
    if look.name == "coarse":
        limit = number(values, "limit")
        return Legend(look.label, look.ramp[1:], ((0.0, f"{limit:g} m"), (1.0, f"edge of {3 * limit:g} m")), "")
    if look.name == "checker":
        return Legend(look.label, (), (), f"squares of {number(values, 'size'):g} m, tenths within")
    if look.name == "density":
        wanted = number(values, "wanted")
        ends = ((0.0, f"{wanted / 4:g}"), (0.5, f"{wanted:g} px/m"), (1.0, f"{wanted * 4:g}"))
        return Legend(look.label, look.ramp, ends, "pixels of texture a metre")
    if look.name == "height":
        low, high = heights or (float(bounds.low[1]), float(bounds.high[1]))
        marks = tuple((share, f"{low + (high - low) * share:.1f} m") for share in (0.0, 0.5, 1.0))
        return Legend(look.label, look.ramp, marks, f"a line every {number(values, 'interval'):g} m")
    if look.name == "slope":
        marks = tuple((degrees / 120, f"{degrees}°") for degrees in (0, 30, 60, 90, 120))
        return Legend(look.label, look.ramp, marks, f"line at {number(values, 'mark'):g}°")
    if look.name == "curvature":
        radius = number(values, "radius")
        return Legend(
            look.label, look.ramp, ((0.0, f"hollow {radius:g} m"), (0.5, "flat"), (1.0, f"ridge {radius:g} m"))
        )
    if look.name == "uv_squares":
        return Legend(
            look.label, look.ramp, ((0.0, "left"), (1.0, "right")), f"{number(values, 'squares'):g} to a unit"
        )
    if look.name == "uv_stretch":
        ends = ((0.0, "half"), (0.5, "mean"), (1.0, "twice"))
        return Legend(look.label, look.ramp, ends, "metres to a unit", key=((UNSEEN, "mirrored"),))
    if look.name == "uv_texels":
        ends = ((0.0, "64"), (0.5, "256 px/m"), (1.0, "1024"))
        return Legend(look.label, look.ramp, ends, f"image of {number(values, 'size'):g}", key=((UNSEEN, "mirrored"),))
    if look.name == "views":
        wanted = number(values, "wanted")
        ends = ((0.0, f"{wanted / 16:.3g}"), (0.5, f"{wanted:.3g} px"), (1.0, f"{wanted * 16:.3g}"))
        return Legend(look.label, look.ramp, ends, "from all viewpoints", key=((UNSEEN, "never seen"),))
    if look.name == "stretch":
        limit = number(values, "limit")
        return Legend(
            look.label,
            look.ramp[1:],
            ((0.0, f"{limit:g} times"), (1.0, f"{3 * limit:g} times")),
            "longest edge, in mean edges",
        )
    return None
