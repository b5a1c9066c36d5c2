"""What the canvas does while a kind of tool is in hand. To add one: write a file like its neighbours and add one line to
`hulmo/app/tools/__init__.py`."""

from dataclasses import dataclass
from typing import Protocol

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QPointF, Qt
from PyQt6.QtWidgets import QApplication

from hulmo.app.overlay import Marks
from hulmo.app.session import Session
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.spatial_index import SurfacePoint
from hulmo.render.camera import Camera
from hulmo.render.inside import Inside

Vector = NDArray[np.float64]


@dataclass(frozen=True)
class Touch:
    """How a pen touches: pressure 0 to 1, lean 0 (upright) to 90 degrees (flat)."""

    pressure: float = 1.0
    lean: float = 0.0


FULL = Touch()
"""The touch of a mouse."""


class View(Protocol):
    """What hand and tools need of the canvas."""

    camera: Camera
    inside: Inside

    def width(self) -> int:
        """Pixels."""

    def height(self) -> int:
        """Pixels."""

    def redraw(self) -> None:
        """Draw soon."""

    def request(self) -> None:
        """Have the next picture shown, whether it is another one or not: ring and reading follow it."""

    def light_at(self, at: QPointF) -> tuple[float, float, float]:
        """Linear light, without exposure, of what is seen somewhere on the canvas."""


class Pointing(Protocol):
    """What a tool needs of the hand: where the pointer is, and what is under it."""

    view: View
    pointer: QPointF | None
    hit: SurfacePoint | None
    beside: tuple[Body, SurfacePoint] | None
    pen: Touch

    def ray(self, at: QPointF) -> tuple[Vector, Vector]:
        """Where the ray of a place on the canvas begins and which way it goes, in the world."""

    def find(self, at: QPointF) -> SurfacePoint | None:
        """What is seen of the active body at a place on the canvas; `hit` from now on, or `beside` where another body that
        the tool works on lies before it."""

    def point(self) -> None:
        """Find what is under the pointer, and tell."""

    def refresh(self) -> None:
        """Show marks where they belong."""

    def look(self, camera: Camera) -> None:
        """Look from somewhere else."""

    def down(self, key: int) -> bool:
        """Whether a key that is held with drags is down."""

    @property
    def turning(self) -> bool:
        """Whether a drag of the view is going on."""


class Controller(QObject):
    """A tool on the canvas. What it does not take, turns the view.

    Attributes
    ----------
    shows_vertices : bool
        Whether the vertices of the active body are drawn while it is in hand.
    """

    shows_vertices = False

    def __init__(self, session: Session, hand: Pointing, parent: QObject) -> None:
        super().__init__(parent)
        self.session, self.hand = session, hand

    @property
    def others(self) -> tuple[Body, ...]:
        """Bodies besides the active one that it works on as well."""
        return ()

    @property
    def held(self) -> bool:
        """Whether a drag of its own is going on."""
        return False

    @property
    def stays(self) -> bool:
        """Whether marks stay where they are while it is dragged."""
        return False

    def press(self, at: QPointF) -> bool:
        """The left button went down; whether the tool takes this press."""
        return False

    def move(self, at: QPointF) -> None:
        """The pointer went on during a drag of the tool's own."""

    def release(self) -> None:
        """The drag ends."""

    def key(self, key: int, down: bool) -> bool:
        """A key went down or up; whether the tool has a use for it."""
        return False

    def wants(self, key: int) -> bool:
        """Whether a key is its own, even where it is that of another tool otherwise."""
        return False

    def let_go(self) -> None:
        """Held keys count as let go."""

    def mark(self, marks: Marks) -> None:
        """Say what is to be drawn over the scene."""


def holds(key: Qt.KeyboardModifier) -> bool:
    """Whether Shift, Ctrl or another such key is down."""
    return bool(QApplication.keyboardModifiers() & key)
