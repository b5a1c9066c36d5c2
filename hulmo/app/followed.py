"""Which image files outside a project may be watched and read again without asking."""

from collections.abc import Iterable

from PyQt6.QtCore import QSettings

from hulmo.app.image_watch import image_of
from hulmo.core.grey_image import outside
from hulmo.core.project import Project

_KEY = "followed"

_MOST = 2_000
"""Files that are remembered."""


def named_files(project: Project) -> set[str]:
    """Absolute paths of the images that a project names: of its grounds and of its relief layers."""
    files = {file for parts in project.sources.values() for file in parts.values()}
    for body in project.bodies:
        layers = [layer.laid for layer in body.layers if layer.laid is not None]
        files |= {image_of(laid.settings, laid.relief) for laid in layers}
    return {file for file in files if outside(file)}


class Followed:
    """Files the user has named here, on this machine, or has agreed to; kept between starts.

    A project from elsewhere may name any file. Such a file is neither looked for nor read until the user agrees.
    """

    def __init__(self) -> None:
        kept = QSettings().value(_KEY, [])
        self._files = dict.fromkeys(str(file) for file in (kept if isinstance(kept, list) else [kept]) if file)
        self._barred: set[str] = set()

    def opened(self, project: Project) -> list[str]:
        """Start with a project; the files it names that are not agreed to."""
        self._barred = named_files(project) - set(self._files)
        return sorted(self._barred)

    def allows(self, file: str) -> bool:
        """Whether a file may be watched and read; anything named since the project was opened may."""
        return file not in self._barred

    def agree(self, files: Iterable[str]) -> None:
        """Follow files from now on."""
        files = list(files)
        self._barred -= set(files)
        fresh = [file for file in files if file not in self._files]
        if fresh:
            self._files |= dict.fromkeys(fresh)
            QSettings().setValue(_KEY, list(self._files)[-_MOST:])

    def note(self, project: Project) -> None:
        """Remember what a project names by now."""
        self.agree(named_files(project) - self._barred)
