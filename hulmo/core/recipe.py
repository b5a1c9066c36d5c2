"""Recipes: JSON lists of commands."""

import json
import pathlib
import re
from collections.abc import Iterable
from typing import Any, Union

import msgspec

from hulmo.core.commands import COMMANDS, Command
from hulmo.core.errors import FileProblem, HulmoError, InvalidInput
from hulmo.core.history import History
from hulmo.core.json_text import plain_json
from hulmo.core.memory import at_most
from hulmo.core.progress import Progress, silent

_KINDS: Any = Union[COMMANDS]  # a union made from the registry
_DECODER = msgspec.json.Decoder(_KINDS)


VARIABLE = re.compile(r"\$\{([A-Za-z_][A-Za-z0-9_]*)\}")

MOST_VERTICES = 1_500_000
"""Vertices that a recipe may make unless it is said otherwise."""


def command_from_json(data: bytes | str, where: str) -> Command:
    """One command.

    Raises
    ------
    InvalidInput
        Unknown command, or values of the wrong kind.
    """
    try:
        command: Command = _DECODER.decode(data)
    except msgspec.ValidationError as error:
        raise InvalidInput(f"{where}: {_plain(str(error))}") from error
    except (msgspec.DecodeError, ValueError, RecursionError) as error:
        raise InvalidInput(f"{where}: no valid JSON ({error})") from error
    return command


def command_to_json(command: Command) -> bytes:
    """One command as one line of JSON."""
    return msgspec.json.encode(command)


def variables(words: list[str]) -> dict[str, Any]:
    """Values by name, from words such as seed=3; numbers and true or false are read as such.

    Raises
    ------
    InvalidInput
        A word without = or without a name.
    """
    out: dict[str, Any] = {}
    for word in words:
        name, is_, text = word.partition("=")
        if not is_ or not name.isidentifier():
            raise InvalidInput(f"{word!r}: write a variable as NAME=VALUE")
        try:
            value = json.loads(text)
        except ValueError:
            value = text
        out[name] = value if isinstance(value, int | float | bool) else text
    return out


def read_recipe(path: pathlib.Path, given: dict[str, Any] | None = None) -> list[Command]:
    """Commands of a recipe file; relative names of files in it are taken from the folder that the recipe lies in.

    A text "${name}" stands for a value that is given, and within a longer text for its words.

    Raises
    ------
    FileProblem
        The file cannot be read or is no list.
    InvalidInput
        A step that is no command; the message names the step.
    """
    try:
        data = path.read_bytes()
    except OSError as error:
        raise FileProblem(f"{path}: cannot be read ({error.strerror})") from error
    steps = plain_json(data, f"{path}: no valid JSON")
    if not isinstance(steps, list):
        raise FileProblem(f"{path}: a recipe is a JSON list of commands, this file holds a {type(steps).__name__}")
    steps = _filled(steps, given or {}, str(path))
    folder = path.absolute().parent
    return [
        command_from_json(json.dumps(step), f"{path}, step {i + 1}").located(folder) for i, step in enumerate(steps)
    ]


def _filled(value: Any, given: dict[str, Any], where: str) -> Any:
    if isinstance(value, list):
        return [_filled(entry, given, where) for entry in value]
    if isinstance(value, dict):
        return {name: _filled(entry, given, where) for name, entry in value.items()}
    if not isinstance(value, str) or "${" not in value:
        return value
    found = VARIABLE.findall(value)
    missing = next((name for name in found if name not in given), None)
    if missing is not None:
        raise InvalidInput(f"{where}: ${{{missing}}} stands for nothing; give it as --set {missing}=VALUE")
    if len(found) == 1 and value == f"${{{found[0]}}}":
        return given[found[0]]
    return VARIABLE.sub(lambda match: str(given[match[1]]), value)


def write_recipe(path: pathlib.Path, commands: Iterable[Command]) -> None:
    """Write a recipe, one command a line."""
    lines = [command_to_json(command).decode() for command in commands]
    path.write_text("[\n" + ",\n".join(lines) + "\n]\n", encoding="utf-8")


def run_recipe(
    history: History,
    commands: list[Command],
    where: str,
    progress: Progress | None = None,
    most: int = MOST_VERTICES,
) -> list[str]:
    """Apply commands in order. When one fails, all are taken back.

    Parameters
    ----------
    history : History
    commands : list of Command
    where : str
        Begins every message.
    progress : Progress, optional
    most : int
        Vertices that the project may have, or as many as it has already; a slip of the pen in a recipe is no reason to
        fill the memory.

    Returns
    -------
    list of str
        What each amounted to, such as the account of an import.

    Raises
    ------
    InvalidInput
        A command could not be applied; the message names the step.
    """
    progress = progress or silent()
    labels: list[str] = []
    most = max(most, _vertices(history))
    try:
        for i, command in enumerate(commands):
            progress.step(i / len(commands), f"step {i + 1} of {len(commands)}")
            with at_most(most):
                labels.append(history.do(command).label)
            count = _vertices(history)
            if count > most:
                raise InvalidInput(
                    f"the project has {count:,} vertices now, more than the {most:,} that were allowed (hulmo run --most)"
                )
    except HulmoError as error:
        for _ in labels:
            history.undo()
        if isinstance(error, InvalidInput | FileProblem):
            raise type(error)(f"{where}, step {i + 1}: {error}") from error
        raise
    return labels


def _vertices(history: History) -> int:
    return sum(body.vertices.live_count for body in history.project.bodies)


def _plain(message: str) -> str:
    if "Invalid value" in message and "$.do" in message:
        known = ", ".join(str(kind.__struct_config__.tag) for kind in COMMANDS)
        return f"{message}; known commands are {known}"
    if "missing required field `do`" in message:
        return 'a step needs "do", the name of its command'
    return message
