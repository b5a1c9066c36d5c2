"""Whether a name that somebody else wrote is that of anything here: names no system can look up are that of nothing."""

import pathlib


def is_there(path: pathlib.Path) -> bool:
    """Whether a file or folder of that name can be seen."""
    return _asked(path, "exists")


def is_file(path: pathlib.Path) -> bool:
    """Whether a file of that name can be seen."""
    return _asked(path, "is_file")


def is_folder(path: pathlib.Path) -> bool:
    """Whether a folder of that name can be seen."""
    return _asked(path, "is_dir")


def _asked(path: pathlib.Path, what: str) -> bool:
    try:
        return bool(getattr(path, what)())
    except (OSError, ValueError):  # too long, not to be entered, or with a letter that no name may have
        return False
