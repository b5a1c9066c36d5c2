"""The looks: what a picture of the scene shows."""

from dataclasses import dataclass

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
    """

    title: str
    ramp: tuple[Colour, ...]
    marks: tuple[tuple[float, str], ...]
    note: str = ""


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
    curved : bool
        Whether it needs the curvature of vertices.
    settings : tuple
        What can be adjusted about it.
    measure : int
        0, or which measure `measure.frag` shows.
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
        Look("ground", "Ground", "The blended ground colours without light.", "2", "ground.frag", textured=True),
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
    )
}  # fmt: skip


def first_values() -> dict[str, Values]:
    """Defaults of the settings of every look."""
    return {look.name: {setting.name: setting.default for setting in look.settings} for look in LOOKS.values()}


def legend(look: Look, values: dict[str, Value], bounds: Bounds) -> Legend | None:
    """The legend of a measuring look; None for the others."""
    if look.name == "height":
        low, high = float(bounds.low[1]), float(bounds.high[1])
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
    if look.name == "stretch":
        limit = number(values, "limit")
        return Legend(
            look.label,
            look.ramp[1:],
            ((0.0, f"{limit:g} times"), (1.0, f"{3 * limit:g} times")),
            "longest edge, in mean edges",
        )
    return None
