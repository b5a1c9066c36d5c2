"""The blend formula as GLSL, the very text the renderer uses."""

import pathlib

import hulmo.assets


def blend_glsl() -> str:
    """GLSL source of mapping by position and of the blend of grounds."""
    folder = pathlib.Path(hulmo.assets.__file__).parent / "shaders"
    return (folder / "blend.glsl").read_text(encoding="utf-8")
