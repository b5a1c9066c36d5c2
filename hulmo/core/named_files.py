"""Files that commands and settings name, and where relative names of a recipe are looked for."""

import pathlib
from collections.abc import Iterable, Mapping
from typing import Any

from hulmo.core.grey_image import outside
from hulmo.core.setting import Picture, Setting


def located(folder: pathlib.Path, name: str) -> str:
    """A relative name taken from a folder; absolute ones stay."""
    return str(folder / name) if name else name


def images_of(settings: Iterable[Setting], given: Mapping[str, Any]) -> dict[str, str]:
    """Settings that name an image file of the user's own, by name of the setting."""
    names = [setting.name for setting in settings if isinstance(setting, Picture)]
    return {name: given[name] for name in names if isinstance(given.get(name), str) and outside(given[name])}


def with_located_images(folder: pathlib.Path, settings: Iterable[Setting], given: Mapping[str, Any]) -> dict[str, Any]:
    """Settings whose relative image files are taken from a folder."""
    return {**given, **{name: located(folder, file) for name, file in images_of(settings, given).items()}}
