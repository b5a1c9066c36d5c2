"""Brush presets: named settings of a brush, in a JSON file that can be handed on."""

import pathlib
from collections.abc import Iterable
from typing import Any

import msgspec

import hulmo.assets
from hulmo.core.brushes import BRUSHES, brush_named
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.json_text import typed_json
from hulmo.core.setting import Values, complete

STARTER = pathlib.Path(hulmo.assets.__file__).parent / "presets.json"


class Preset(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """Settings of one brush under a name; what is left out has its default."""

    name: str
    brush: str
    settings: dict[str, Any] = {}

    def values(self) -> Values:
        """All settings of the brush, checked.

        Raises
        ------
        InvalidInput
            A brush that there is none of, or a setting out of range.
        """
        where = f"preset {self.name!r}"
        return complete(brush_named(self.brush, where).all_settings, self.settings, where)


class _File(msgspec.Struct):
    hulmo_presets: int
    presets: list[Preset]


def preset_of(name: str, brush: str, values: Values) -> Preset:
    """A preset of the settings that differ from a brush's defaults.

    Raises
    ------
    InvalidInput
        No name.
    """
    if not name.strip():
        raise InvalidInput("preset: it needs a name")
    first = {setting.name: setting.default for setting in BRUSHES[brush].all_settings}
    return Preset(name.strip(), brush, {key: value for key, value in values.items() if value != first.get(key)})


def read_presets(path: pathlib.Path) -> list[Preset]:
    """Presets of a file.

    Raises
    ------
    FileProblem
        The file cannot be read, is damaged, or holds a preset that cannot be used; the message names it.
    """
    try:
        data = path.read_bytes()
    except OSError as error:
        raise FileProblem(f"{path}: cannot be read ({error.strerror})") from error
    presets = typed_json(data, _File, f"{path}: holds no brush presets, or is damaged").presets
    for preset in presets:
        try:
            preset.values()
        except InvalidInput as error:
            raise FileProblem(f"{path}: {error}") from error
    return presets


def write_presets(path: pathlib.Path, presets: Iterable[Preset]) -> None:
    """Write presets, one a line.

    Raises
    ------
    FileProblem
    """
    lines = [msgspec.json.encode(preset).decode() for preset in presets]
    text = '{"hulmo_presets": 1, "presets": [\n' + ",\n".join(lines) + "\n]}\n"
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        spare = path.with_name(path.name + ".part")
        spare.write_text(text, encoding="utf-8")
        spare.replace(path)
    except OSError as error:
        raise FileProblem(f"{path}: cannot be written ({error.strerror}); choose another folder") from error


def with_preset(presets: Iterable[Preset], preset: Preset) -> list[Preset]:
    """The presets with one more; one of the same name for the same brush is replaced."""
    rest = [entry for entry in presets if (entry.name, entry.brush) != (preset.name, preset.brush)]
    return [*rest, preset]
