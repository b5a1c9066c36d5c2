"""The images that can be baked. To add one: an entry here, and what makes it in `bake.py` of the renderer."""

from dataclasses import dataclass


@dataclass(frozen=True)
class BakedMap:
    """One kind of image.

    Attributes
    ----------
    name, label, help : str
    channels : int
        1 or 3; 4 where there are several images of four shares.
    coloured : bool
        Whether its values are colours, written by the sRGB curve in 8 bits.
    figures : bool
        Whether its values may lie beyond 0 to 1, so that only EXR and TIFF hold them.
    shaded : bool
        Whether the grounds' textures make it.
    """

    name: str
    label: str
    help: str
    channels: int
    coloured: bool = False
    figures: bool = False
    shaded: bool = False


MAPS: dict[str, BakedMap] = {
    entry.name: entry
    for entry in (
        BakedMap("base_colour", "Base colour", "The blended grounds without light.", 3, coloured=True, shaded=True),
        BakedMap("normal", "Normal", "In tangent space by MikkTSpace, green up the image.", 3, shaded=True),
        BakedMap("normal_object", "Normal, object", "Red east, green up, blue south.", 3, shaded=True),
        BakedMap("roughness", "Roughness", "0 smooth, 1 rough.", 1, shaded=True),
        BakedMap("weights", "Ground weights", "Four grounds to an image; they sum to 1 exactly.", 4),
        BakedMap("dominant", "Dominant ground", "Each ground in a colour of its own.", 3, coloured=True),
        BakedMap("tint", "Tint", "Colour laid over the grounds, and in the last channel how much it covers.", 4),
        BakedMap("slope", "Slope", "0 level, 1 upside down: degrees over 180.", 1),
        BakedMap("position", "Position", "Metres: east, up, south.", 3, figures=True),
        BakedMap("occlusion", "Occlusion", "How open to an even sky around: 0 not at all, 1 wholly.", 1),
        BakedMap("shelter", "Shelter", "How much the body hides of what it faces within the search: 1 wholly.", 1),
        BakedMap("contact", "Foot contact", "1 where props stand, fading out at twice their width.", 1),
        BakedMap("missed", "Missed", "1 where no ray found the fine body.", 1),
        BakedMap("height", "Height", "Metres of the fine body over the coarse one it is baked onto.", 1, figures=True),
        BakedMap("curvature", "Curvature", "One over metres; above 0 on ridges.", 1, figures=True),
    )
}
