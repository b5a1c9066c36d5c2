"""Settings written as words on the command line."""

from collections.abc import Sequence

from hulmo.core.errors import InvalidInput, shown
from hulmo.core.setting import Number, Setting, Switch, Value, Values, complete

SAID = {"yes": True, "true": True, "on": True, "no": False, "false": False, "off": False}


def from_words(settings: tuple[Setting, ...], words: Sequence[str], where: str) -> Values:
    """Complete values from words such as ``grid=0.002``.

    Parameters
    ----------
    settings : tuple of Setting
    words : sequence of str
        NAME=VALUE; switches take yes or no.
    where : str
        Begins every message.

    Raises
    ------
    InvalidInput
        No such setting, or a value that it cannot have.
    """
    known = {setting.name: setting for setting in settings}
    given: dict[str, Value] = {}
    for word in words:
        name, equals, text = word.partition("=")
        if not equals:
            raise InvalidInput(f"{where}: {shown(word)} is not of the form NAME=VALUE; names are {', '.join(known)}")
        setting = known.get(name)
        given[name] = text
        if isinstance(setting, Switch):
            if text.lower() not in SAID:
                raise InvalidInput(f"{where}: {name} is {shown(text)}; it must be yes or no")
            given[name] = SAID[text.lower()]
        elif isinstance(setting, Number):
            try:
                given[name] = float(text)
            except ValueError:
                raise InvalidInput(f"{where}: {name} is {shown(text)}; it must be a number") from None
    return complete(settings, given, where)
