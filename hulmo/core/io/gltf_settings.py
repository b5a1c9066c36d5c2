"""What can be chosen of a glTF document, as one file or as several."""

from hulmo.core.io.gltf_packing import SETTINGS as PACKING
from hulmo.core.setting import Choice, Setting, Switch

SETTINGS: tuple[Setting, ...] = (
    Choice(
        "colour", "Vertex colour",
        (
            ("mean", "Mean colour", "The blended colour of the grounds: looks right in any viewer."),
            ("weights", "Four weights", "Of the four grounds that cover most, for engines that read no more."),
            ("sets", "All weights", "Of four grounds in each colour set, as many sets as it takes."),
        ),
        "mean", "What the vertex colour holds. The ground weights are always in the file besides.",
    ),
    Switch(
        "uv_weights", "Weights in UV sets", False,
        "Weights of two grounds in each further set of texture coordinates, for engines that read nothing else.",
    ),
    Choice(
        "props", "Dress",
        (
            ("instances", "Props as instances", "Waters, lamps, cameras, and each prop once with all its places."),
            ("nodes", "Props as nodes", "The same with a node for every prop, for engines without instancing."),
            ("none", "Ground alone", "Neither waters, props, lamps nor cameras."),
        ),
        "instances", "What comes along beside the ground.",
    ),
    *PACKING,
)  # fmt: skip
