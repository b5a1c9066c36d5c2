"""Errors a user can do something about. Each message says what is wrong, where, and what to do."""


class HulmoError(Exception):
    """Base of every error whose text is meant for the user."""


class InvalidInput(HulmoError):
    """A value, name or recipe step that cannot be used."""


class FileProblem(HulmoError):
    """A file that cannot be read or written."""


class Cancelled(HulmoError):
    """The user stopped a long job; nothing was changed."""


def shown(value: object, most: int = 60) -> str:
    """A value that somebody gave, for a message: cut short where it is long."""
    try:
        text = repr(value)
    except ValueError:  # Python writes no whole number of more than 4,300 digits
        text = f"a {type(value).__name__} too long to be written"
    return text if len(text) <= most else f"{text[:most]}…"
