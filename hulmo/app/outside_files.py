"""Image files that a project names outside itself: watched as far as the user agrees, and read again when they change."""

from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from hulmo.app.followed import Followed
from hulmo.app.image_watch import ImageWatch
from hulmo.app.texture_watch import TextureWatch
from hulmo.core.commands import RelayRelief, ReloadTexture

if TYPE_CHECKING:
    from hulmo.app.session import Session

AGAIN_AFTER = 1500
"""Milliseconds after which something that has to wait for other work is tried again."""


class OutsideFiles(QObject):
    """Follows the images of grounds and of relief layers.

    Signals
    -------
    asked : list of str
        Files that the project just opened names and the user has not agreed to follow.
    """

    asked = pyqtSignal(list)

    def __init__(self, session: "Session") -> None:
        super().__init__(session)
        self._session = session
        self.images = ImageWatch(self)
        self.textures = TextureWatch(self)
        self.followed = Followed()
        self.images.changed.connect(self._relay)
        self.textures.changed.connect(self._reload)

    def opened(self) -> list[str]:
        """Another project is open; the files that it names and nobody has agreed to."""
        unknown = self.followed.opened(self._session.project)
        self.follow()
        return unknown

    def agree(self, files: list[str]) -> None:
        """Follow files from now on."""
        self.followed.agree(files)
        self.follow()

    def follow(self) -> None:
        """Watch what the project names by now."""
        project = self._session.project
        self.followed.note(project)
        self.images.follow(project, self.followed.allows)
        self.textures.follow(project, self.followed.allows)

    @property
    def _waits(self) -> bool:
        return self._session.busy or self._session.history.stroking

    def _relay(self, ident: int, layer: str) -> None:
        # an image on disk has changed: lay the relief again that was made from it
        if self._waits:
            QTimer.singleShot(AGAIN_AFTER, lambda: self._relay(ident, layer))
            return
        body = next((body for body in self._session.project.bodies if body.ident == ident), None)
        if body is not None and any(entry.name == layer and entry.laid is not None for entry in body.layers):
            self._session.do_long(RelayRelief(body.name, layer))

    def _reload(self, texture: str) -> None:
        # an image of a ground has changed on disk: read it again
        if self._waits:
            QTimer.singleShot(AGAIN_AFTER, lambda: self._reload(texture))
        elif texture in self._session.project.sources:
            self._session.do(ReloadTexture(texture))
