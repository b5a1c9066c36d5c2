"""The blend formula as GLSL, the very text the renderer uses."""

import pathlib

import hulmo.assets

FOLDER = pathlib.Path(hulmo.assets.__file__).parent / "shaders"


def blend_glsl() -> str:
    """GLSL source of mapping by position and of the blend of grounds."""
    return _text("blend.glsl")


def light_glsl() -> str:
    """GLSL source of how grounds are lit and light is brought to the screen."""
    return _text("shade.glsl")


def receiver_glsl(constants: str) -> tuple[str, str]:
    """Vertex and fragment shader, each complete, that draw a delivery.

    Parameters
    ----------
    constants : str
        GLSL that says what is delivered; see `receiver`.
    """
    given = {"blend.glsl": blend_glsl(), "shade.glsl": light_glsl(), "constants.glsl": constants}
    texts = []
    for name in ("receiver.vert", "receiver.frag"):
        text = _text(name)
        for part, content in given.items():
            text = text.replace(f"#include {part}\n", content)
        texts.append(text)
    return texts[0], texts[1]


def _text(name: str) -> str:
    return (FOLDER / name).read_text(encoding="utf-8")
