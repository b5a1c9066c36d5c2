"""The looks: what a picture of the scene shows."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Look:
    """One way to look at the scene.

    Attributes
    ----------
    name, label, help, key : str
    textured : bool
        Whether grounds are drawn with their textures.
    shaded : bool
        Whether sun and sky act.
    sky : bool
        Whether the background is the sky rather than a plain page.
    lines : bool
        Whether mesh edges are drawn.
    """

    name: str
    label: str
    help: str
    key: str
    textured: bool
    shaded: bool
    sky: bool
    lines: bool = False


LOOKS: dict[str, Look] = {
    look.name: look
    for look in (
        Look("lit", "Lit", "Grounds under sun and sky, as delivered.", "1", True, True, True),
        Look("ground", "Ground", "The blended ground colours without light.", "2", True, False, False),
        Look("form", "Form", "Plain clay, to judge the shape.", "3", False, True, False),
        Look("mesh", "Mesh", "Clay with all mesh edges.", "4", False, True, False, lines=True),
    )
}
