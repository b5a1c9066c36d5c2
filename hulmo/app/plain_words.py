"""Messages of the core as the window says them: without the names that recipes use."""

from hulmo.core.commands import COMMANDS

_TAGS = tuple(f"{kind.__struct_config__.tag}: " for kind in COMMANDS)


def plain_words(text: str) -> str:
    """A message without the name of a command in front.

    Examples
    --------
    >>> plain_words("split_body: nothing is chosen")
    'Nothing is chosen'
    """
    for tag in _TAGS:
        if text.startswith(tag):
            text = text[len(tag) :]
            return text[:1].upper() + text[1:]
    return text
