"""When to draw which picture: a small one while the hand moves, the full one when it rests."""

import time
from collections.abc import Iterator

import moderngl

from hulmo.core.edit import Change
from hulmo.core.project import Project
from hulmo.render.camera import Camera
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets

FAST_ENOUGH = 0.045
"""Seconds; a full picture that takes no longer is always drawn at once."""

BAND = 0.06
"""Seconds that one piece of a full picture may take."""

SMALLER = (0.5, 0.36, 0.26, 0.19)
"""Sizes of the picture that is drawn while the hand moves on a slow drawer, as shares of the full one."""

TOO_LONG = 0.1
"""Seconds for such a picture, beyond which the hand is left behind: the next smaller size is taken then."""


class Picture:
    """Pictures of one project for one canvas. All methods need the canvas's OpenGL context current.

    `quick` draws what can be drawn within a frame; `step` goes on with the full picture until it is done.
    """

    def __init__(self, context: moderngl.Context, project: Project) -> None:
        self.renderer = Renderer(context, project, waiting=True)
        self._full: Targets | None = None
        self._small: Targets | None = None
        self._shown: Targets | None = None
        self._steps: Iterator[None] | None = None
        self._cost = 1.0 if self.renderer.software else 0.01
        self._spent = 0.0
        self._waiting: list[Change] = []
        self._smaller = 0
        self._warm = False  # the first picture also compiles shaders and sends everything

    @property
    def full_cost(self) -> float:
        """Seconds the last full picture took."""
        return self._cost

    def resize(self, size: tuple[int, int]) -> None:
        """Draw in another size from now on."""
        if self._full is not None and self._full.size == size:
            return
        for targets in (self._full, self._small):
            if targets is not None:
                targets.release()
        self._full = Targets(self.renderer.context, size)
        self._small = Targets(self.renderer.context, self._small_size(size))
        self._shown = None
        self._steps = None

    def note(self, change: Change) -> None:
        """Remember a change; it is sent to the card before the next picture. Needs no context."""
        self._waiting.append(change)

    def show(self, project: Project) -> None:
        """Draw another project from now on."""
        self._waiting.clear()
        self._steps = None
        self.renderer.show(project)

    def quick(self, camera: Camera, look: str) -> bool:
        """Draw at once what a moving hand needs; True when it is already the full picture."""
        assert self._full is not None and self._small is not None
        self._steps = None
        self._send()
        if self._small.size != self._small_size(self._full.size):
            self._small.release()
            self._small = Targets(self.renderer.context, self._small_size(self._full.size))
        if self._cost <= FAST_ENOUGH:
            start = time.perf_counter()
            self.renderer.picture(self._full, camera, look)
            self._finish_clock(start)
            self._shown = self._full
            return True
        start = time.perf_counter()
        self.renderer.picture(self._small, camera, look, quick=True)
        self.renderer.context.finish()
        self._shown = self._small
        spent = time.perf_counter() - start
        step = 1 if spent > TOO_LONG else -1 if spent < TOO_LONG / 4 else 0
        if self._warm:
            self._smaller = min(max(self._smaller + step, 0), len(SMALLER) - 1)
        self._warm = True
        return False

    def begin(self, camera: Camera, look: str) -> None:
        """Begin the full picture."""
        assert self._full is not None
        self._send()
        bands = max(1, min(16, round(self._cost / BAND)))
        self._spent = 0.0
        self._steps = self.renderer.steps(self._full, camera, look, bands=bands)

    def step(self) -> bool:
        """Go on with the full picture; True when it is done (or none was begun)."""
        if self._steps is None:
            return True
        start = time.perf_counter()
        try:
            next(self._steps)
        except StopIteration:
            self._steps = None
            self._shown = self._full
            self._cost = max(self._spent, 1e-4)
            return True
        self.renderer.context.finish()
        self._spent += time.perf_counter() - start
        return False

    def copy(self, framebuffer: moderngl.Framebuffer) -> None:
        """Put the last finished picture on the canvas."""
        if self._shown is not None:
            self.renderer.copy(self._shown, framebuffer)

    def _small_size(self, size: tuple[int, int]) -> tuple[int, int]:
        share = SMALLER[self._smaller]
        return max(16, int(size[0] * share)), max(16, int(size[1] * share))

    def _send(self) -> None:
        for change in self._waiting:
            self.renderer.follow(change)
        self._waiting.clear()

    def _finish_clock(self, start: float) -> None:
        self.renderer.context.finish()  # a slow graphics card shows only here
        self._cost = time.perf_counter() - start
