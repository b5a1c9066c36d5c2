"""Errors a user can do something about. Each message says what is wrong, where, and what to do."""


class HulmoError(Exception):
    """Base of every error whose text is meant for the user."""


class InvalidInput(HulmoError):
    """A value, name or recipe step that cannot be used."""


class FileProblem(HulmoError):
    """A file that cannot be read or written."""


class Cancelled(HulmoError):
    """The user stopped a long job; nothing was changed."""
