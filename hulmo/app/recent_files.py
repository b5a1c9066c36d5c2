"""Projects opened or saved lately, kept with the settings of the program."""

import pathlib

from PyQt6.QtCore import QSettings

from hulmo.core.there import is_there

MOST = 8


def recent_files() -> list[pathlib.Path]:
    """Those that are still there, newest first."""
    stored = QSettings().value("recent", [], list)
    return [path for path in map(pathlib.Path, stored or []) if is_there(path)]


def remember_file(path: pathlib.Path) -> None:
    """Put a file first."""
    names = [str(path.absolute())]
    names += [str(old) for old in recent_files() if str(old) != names[0]]
    QSettings().setValue("recent", names[:MOST])
