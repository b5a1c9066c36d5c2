"""When to draw which picture: what a dab changed, a small one while the camera moves, the full one when all rests."""

import math
import time
from collections.abc import Iterator
from itertools import chain, groupby

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.edit import Change
from hulmo.core.mesh.distinct import distinct
from hulmo.core.project import Project
from hulmo.render.camera import Camera
from hulmo.render.part import Part
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets
from hulmo.render.touched import Touched
from hulmo.render.view import View

FAST_ENOUGH = 0.045
"""Seconds; a full picture that takes no longer is always drawn at once."""

BAND = 0.06
"""Seconds that one piece of a full picture may take."""

STROKED_BAND = 0.012
"""Seconds that one piece may take while a stroke goes on: its events wait for it."""

SMALLER = (0.5, 0.36, 0.26, 0.19)
"""Sizes of the picture that is drawn while the hand moves on a slow drawer, as shares of the full one."""

TOO_LONG = 0.066
"""Seconds for such a picture, beyond which the hand is left behind: a smaller size is taken then."""

HASTIER = 0.5
"""What a pixel of it costs, in pixels of the whole picture."""

FEWER, SPARE = 1.9, 2.5
"""How many times the pixels of the next smaller size a size has, and how many times quicker than it need be a picture must
be before the next larger one is taken."""

WANTED = 0.012
"""Seconds that drawing what a dab changed should take: it is drawn with as many pixels as there is time for."""

FEWEST, MOST = 1500, 200_000
"""Pixels that it is drawn with."""

SEEN, COARSEST = 6000, 9
"""Pixels that are enough to see what comes of a large part, and pixels of a smaller one that one stands for at the most."""

DEARER = 1.5
"""What a pixel of it costs, in pixels of the whole picture."""

REFINED = 0.25
"""Share of the picture up to which what was drawn with fewer pixels is drawn anew before all of it."""

STEP, FEW_STEPS = 12, 6
"""Pixels in steps of which the size of a rough part is chosen, so that pictures of its size can be used again; from so many
steps on, by every other.

Never a power of two: some drawers compile their shaders anew for pictures of such sizes, which takes a second.
"""

MOST_PATCHES = 40
"""Sizes of rough parts that are kept."""

NONE = Part(0, 0, 0, 0)


class Picture:
    """Pictures of one project for one canvas. All methods need the canvas's OpenGL context current.

    `quick` draws what can be drawn within a frame; `step` goes on with the full picture until it is done. The full one grows
    behind the one that is shown, so that a stroke can go on in the latter at any time.
    """

    def __init__(self, context: moderngl.Context, project: Project) -> None:
        self.renderer = Renderer(context, project, waiting=True)
        self._full: Targets | None = None
        self._next: Targets | None = None
        self._small: Targets | None = None
        self._shown: Targets | None = None
        self._view: View | None = None
        """What the full picture shows; None where that is not true any more."""
        self._next_view: View | None = None
        self._steps: Iterator[None] | None = None
        self._cost = 1.0 if self.renderer.software else 0.01
        self._pixels = 2.0 * FEWEST
        """Pixels that what a dab changed is drawn with at the most."""
        self._spent = 0.0
        self._waiting: list[Change] = []
        self._smaller = 0
        self._patches: dict[tuple[int, int], Targets] = {}
        self._rough = NONE
        """What of the full picture has been drawn with fewer pixels."""
        self._changed: Part | None = None
        """What has changed on the picture since it was last put on the canvas; None for all of it."""
        self._sized = False
        self._warm = False  # the first picture also compiles shaders and sends everything

    @property
    def full_cost(self) -> float:
        """Seconds the last full picture took."""
        return self._cost

    @property
    def fresh(self) -> bool:
        """Whether there is something that has not been put on the canvas yet."""
        return self._changed is None or bool(self._changed.area)

    @property
    def settled(self) -> bool:
        """Whether what is shown is the full picture."""
        return self._shown is not None and self._shown is self._full

    def resize(self, size: tuple[int, int]) -> None:
        """Draw in another size from now on."""
        if self._full is not None and self._full.size == size:
            return
        for targets in (self._full, self._next, self._small, *self._patches.values()):
            if targets is not None:
                targets.release()
        self._patches.clear()
        self._full = Targets(self.renderer.context, size)
        self._next = Targets(self.renderer.context, size, self._full)
        self._small = Targets(self.renderer.context, self._small_size(size))
        self._shown = self._steps = self._view = self._changed = None

    def note(self, change: Change) -> None:
        """Remember a change; it is sent to the card before the next picture. Needs no context."""
        self._waiting.append(change)

    def show(self, project: Project) -> None:
        """Draw another project from now on."""
        self._waiting.clear()
        self._steps = self._view = None
        self.renderer.show(project)

    def forget(self) -> None:
        """What is shown is not of the project as it is, in some way that no change tells (marks)."""
        self._view = None

    def quick(self, camera: Camera, look: str) -> bool:
        """Draw at once what a moving hand needs; True when it is already the full picture."""
        assert self._full is not None and self._small is not None
        self._steps = None
        touched = self._send()
        if self._cost <= FAST_ENOUGH:
            start = time.perf_counter()
            self.renderer.picture(self._full, camera, look)
            self._finish_clock(start)
            self._show(self._full)
            return True
        view = self.renderer.view(camera, look)
        if self._view is not None and touched is not None and view.asks_for_the_same(self._view):
            self._draw_part(touched)
            return False
        if touched is None or touched.part.area:
            self._view = None  # the full picture does not show this change
        if self._small.size != self._small_size(self._full.size):
            self._small.release()
            self._small = Targets(self.renderer.context, self._small_size(self._full.size))
        start = time.perf_counter()
        self.renderer.picture(self._small, camera, look, quick=True, coarse=True, hasty=True)
        self.renderer.context.finish()
        self._show(self._small)
        spent = time.perf_counter() - start
        step = -1 if spent < TOO_LONG / SPARE else 0
        if spent > TOO_LONG:  # as many as that takes, if pixels were all that counts
            step = max(1, int(math.log(spent / TOO_LONG, FEWER)))
        if self._warm:
            self._smaller = min(max(self._smaller + step, 0), len(SMALLER) - 1)
        self._warm = True
        return False

    def begin(self, camera: Camera, look: str, stroking: bool = False) -> None:
        """Begin the full picture; while a stroke goes on, only what was drawn with fewer pixels."""
        assert self._next is not None
        touched = self._send()
        if touched is None or touched.part.area:
            self._view = None
        if stroking:
            self._next_view, self._steps = None, self._refined(STROKED_BAND)
            return
        bands = max(1, min(16, round(self._cost / BAND)))
        self._spent = 0.0
        self._next_view = self.renderer.view(camera, look)
        drawing = self.renderer.steps(self._next, self._next_view, bands=bands)
        self._steps = chain(self._textured(self._next_view), self._refined(BAND), drawing)

    def _textured(self, view: View) -> Iterator[None]:
        # what the textures take, the first time, is no picture's
        if view.look.textured:
            yield from self.renderer.made_textures()
        self._spent = 0.0

    def _refined(self, wanted: float) -> Iterator[None]:
        # what was drawn with fewer pixels, strip by strip of so many seconds, before all of it is drawn in its new light
        assert self._full is not None
        rough, pixels = self._rough, self._full.size[0] * self._full.size[1]
        if self._view is None or not rough.area or rough.area > REFINED * pixels:
            return
        lines = max(1, int(wanted / max(DEARER * self._cost * rough.width / pixels, 1e-9)))
        while self._rough.height:
            left = self._rough
            lines = min(lines, left.height)
            start = time.perf_counter()
            changed = self.renderer.part(self._full, self._view, Part(left.x, left.y, left.width, lines))
            self.renderer.context.finish()
            spent = time.perf_counter() - start
            self._rough = Part(left.x, left.y + lines, left.width, left.height - lines)
            if self._changed is not None:
                self._changed = self._changed.joined(changed)
            lines = max(1, int(lines * min(max(wanted / max(spent, 1e-9), 0.25), 2.0)))
            yield
        self._rough, self._spent = NONE, 0.0

    def _made_ready(self) -> Iterator[None]:
        # what draws rough parts of such a picture is made and compiled before the first of a stroke waits for it
        for _ in self.renderer.made_ready():
            yield
            if self._waiting:
                return
        if self._view is None or self._next is None:
            return
        middle = Part(self._next.size[0] // 2, self._next.size[1] // 2, STEP, STEP).within(self._next.size)
        nowhere = np.zeros(3)
        self.renderer.rough(self._next, self._view, Touched(middle, nowhere, nowhere), self._patch(middle, 1.0))
        yield

    def step(self) -> bool:
        """Go on with the full picture; True when it is done (or none was begun)."""
        if self._steps is None:
            return True
        start = time.perf_counter()
        try:
            next(self._steps)
        except StopIteration:
            self._steps = None
            if self._next_view is None:
                return True
            self._full, self._next = self._next, self._full
            self._view, self._rough = self._next_view, NONE
            assert self._full is not None
            self._show(self._full)
            self._cost = max(self._spent, 1e-4)
            if not self._sized:  # what the first picture that moves can be expected to take
                self._sized = True
                slow = [HASTIER * self._cost * share**2 > TOO_LONG for share in SMALLER]
                self._smaller = max(self._smaller, min(sum(slow), len(SMALLER) - 1))
            if self._cost > FAST_ENOUGH:
                self._steps, self._next_view = self._made_ready(), None
                return False
            return True
        self.renderer.context.finish()
        self._spent += time.perf_counter() - start
        return False

    def copy(self, framebuffer: moderngl.Framebuffer, kept: bool = False) -> Part | None:
        """Put the last finished picture on the canvas; `kept` says that the canvas still has the one before it.

        Returns what has changed on the canvas, None for all of it.
        """
        if self._shown is None:
            return NONE
        part = self._changed if kept else None
        if part is None or part.area:
            self.renderer.copy(self._shown, framebuffer, part)
        self._changed = NONE
        return part

    def _draw_part(self, touched: Touched) -> None:
        assert self._full is not None and self._view is not None
        start = time.perf_counter()
        size, part = self._full.size, touched.part
        pixel = DEARER * self._cost / (size[0] * size[1])
        pixels = max(self._pixels, min(SEEN, part.area / COARSEST))
        if part.area <= pixels and part.area * pixel < WANTED / 2:
            drawn = part.area
            changed = self.renderer.part(self._full, self._view, part)
        else:
            patch = self._patch(part, min(math.sqrt(pixels / part.area), 1.0))
            drawn = patch.size[0] * patch.size[1]
            changed = self.renderer.rough(self._full, self._view, touched, patch)
            self._rough = self._rough.joined(part)
        self.renderer.context.finish()
        spent = time.perf_counter() - start
        if part.area > FEWEST:
            left = WANTED - max(spent - drawn * pixel, 0.0)  # what goes to triangles and the like is no pixel's
            self._pixels = min(max(0.5 * self._pixels + 0.5 * left / pixel, FEWEST), MOST)
        if self._shown is not self._full:
            self._show(self._full)
        elif self._changed is not None:
            self._changed = self._changed.joined(changed).within(size)

    def _patch(self, part: Part, share: float) -> Targets:
        size = _stepped(part.width * share), _stepped(part.height * share)
        if size not in self._patches:
            if len(self._patches) >= MOST_PATCHES:
                self._patches.pop(next(iter(self._patches))).release()
            self._patches[size] = Targets(self.renderer.context, size)
        return self._patches[size]

    def _show(self, targets: Targets) -> None:
        self._shown, self._changed = targets, None

    def _small_size(self, size: tuple[int, int]) -> tuple[int, int]:
        share = SMALLER[self._smaller]
        return max(16, int(size[0] * share)), max(16, int(size[1] * share))

    def _send(self) -> Touched | None:
        # what all that has changed since changes in the full picture; None where that may be all of it
        assert self._full is not None
        touched: Touched | None = Touched()
        for change in _merged(self._waiting):
            one = self.renderer.follow(change, self._view, self._full.size)
            touched = None if touched is None or one is None else touched.joined(one)
        self._waiting.clear()
        return touched

    def _finish_clock(self, start: float) -> None:
        self.renderer.context.finish()  # a slow graphics card shows only here
        self._cost = time.perf_counter() - start


def _stepped(side: float) -> int:
    step = STEP if side < FEW_STEPS * STEP else 2 * STEP
    return max(round(side / step) * step, STEP)


def _merged(changes: list[Change]) -> list[Change]:
    # changes of rows alone that follow each other, as one: tables hold the last state anyway
    out: list[Change] = []
    for plain, some in groupby(changes, lambda change: not change.fields and not change.bodies):
        group = list(some)
        if not plain or len(group) == 1:
            out.extend(group)
            continue
        rows: dict[tuple[int, str], list[NDArray[np.int32]]] = {}
        for ident, column, those in chain.from_iterable(change.rows for change in group):
            rows.setdefault((ident, column), []).append(those)
        known: dict[tuple[int, ...], NDArray[np.int32]] = {}  # columns are often told of with the very same rows
        merged = []
        for (ident, column), lists in rows.items():
            key = tuple(id(those) for those in lists)
            if key not in known:
                known[key] = lists[0] if len(lists) == 1 else distinct(np.concatenate(lists))
            merged.append((ident, column, known[key]))
        out.append(
            Change(
                merged, list(chain.from_iterable(change.slots for change in group)), group[0].bodies, group[0].fields
            )
        )
    return out
