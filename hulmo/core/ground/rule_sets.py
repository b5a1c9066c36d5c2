"""Rule sets: ground rules that are shared as a file."""

import functools
import pathlib

import msgspec

import hulmo.assets
from hulmo.core.errors import FileProblem
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.rules import Rule
from hulmo.core.json_text import typed_json

FOLDER = pathlib.Path(hulmo.assets.__file__).parent / "rule_sets"

FORMAT = "hulmo-ground-rules"

VERSION = 1


class RuleSet(msgspec.Struct, frozen=True):
    """Ground rules, the grounds that they name, and what lies below them.

    Attributes
    ----------
    format : str
        "hulmo-ground-rules".
    version : int
    name : str
    base : str
        Ground that lies where no rule says otherwise; empty for whatever lies there.
    grounds : tuple of Ground
        Added to a palette that lacks them; their textures are shipped ones.
    rules : tuple of Rule
    """

    format: str
    version: int
    name: str
    base: str = ""
    grounds: tuple[Ground, ...] = ()
    rules: tuple[Rule, ...] = ()


@functools.cache
def shipped_rule_sets() -> dict[str, str]:
    """Files of the shipped sets by name."""
    return {file.stem: str(file) for file in sorted(FOLDER.glob("*.json"))}


def read_rule_set(path: pathlib.Path) -> RuleSet:
    """A rule set from a file.

    Raises
    ------
    FileProblem
        No such file, or none that holds ground rules.
    """
    try:
        data = path.read_bytes()
    except OSError as error:
        known = ", ".join(shipped_rule_sets())
        raise FileProblem(f"{path}: cannot be read ({error.strerror}); shipped rule sets are {known}") from error
    found = typed_json(data, RuleSet, f"{path}: holds no ground rules")
    if found.format != FORMAT:
        raise FileProblem(f"{path}: holds no ground rules (its format is {found.format!r})")
    if found.version > VERSION:
        raise FileProblem(f"{path}: written by a newer Hulmo; update Hulmo to use it")
    return found


def encoded_rule_set(name: str, base: str, grounds: tuple[Ground, ...], rules: tuple[Rule, ...]) -> bytes:
    """A rule set as JSON, with those of the grounds that it names."""
    named = {base, *(rule.ground for rule in rules)}
    named |= {str(c.settings.get("to", "")) for rule in rules for c in rule.conditions if c.measure == "near"}
    kept = tuple(ground for ground in grounds if ground.name in named)
    return msgspec.json.format(msgspec.json.encode(RuleSet(FORMAT, VERSION, name, base, kept, rules)), indent=1)
