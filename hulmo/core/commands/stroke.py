"""A brush stroke, whole or live."""

import contextlib
import pathlib
from collections.abc import Callable
from functools import partial
from typing import Any, Self

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.attributes import attribute_of
from hulmo.core.brushes import BRUSHES, brush_named
from hulmo.core.commands.command import Command
from hulmo.core.commands.painted import ground_to_lay
from hulmo.core.edit import BodyDelta, Change, ColumnDelta, Delta, Edit, PatchDelta, RowsDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.follow import RuleFollower
from hulmo.core.ground.paint_target import PaintTarget
from hulmo.core.ground.palette import Palette
from hulmo.core.ground.weights import HAND, WEIGHT, weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import FORM, Layer
from hulmo.core.mesh.patch import Patch
from hulmo.core.named_files import images_of, with_located_images
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.sculpt.growth import check_size, drop_scratch
from hulmo.core.sculpt.recorder import Touched, Written
from hulmo.core.sculpt.sampler import Sample
from hulmo.core.sculpt.stroke import Stroke as Engine
from hulmo.core.setting import complete


class Stroke(Command, frozen=True, tag="stroke"):
    """A brush stroke.

    Attributes
    ----------
    body, brush : str
        Of a body, and of a brush as listed above.
    samples : list of lists of numbers
        3: a point (the nearest surface point is used). 6: a ray, origin and direction. One number more: pressure, 0 to 1.
        Two more: lean of the pen as well, 0 to 90 degrees.
    settings : dict
        Brush settings that differ from their defaults.
    ground : str
        Ground in hand, for the brushes that need one.
    invert : bool
        As with Ctrl held: what a brush does in reverse.
    layer : str
        Relief layer that shaping brushes work on; empty for the form.
    """

    body: str
    brush: str
    samples: tuple[tuple[float, ...], ...]
    settings: dict[str, Any] = {}
    ground: str = ""
    invert: bool = False
    layer: str = FORM

    @property
    def lays_rules(self) -> bool:
        """See `Command.lays_rules`."""
        return True

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return self.brush in BRUSHES and bool(images_of(BRUSHES[self.brush].all_settings, self.settings))

    def located(self, folder: pathlib.Path) -> Self:
        """See `Command.located`."""
        if not self.reads_files:
            return self
        settings = with_located_images(folder, BRUSHES[self.brush].all_settings, self.settings)
        return msgspec.structs.replace(self, settings=settings)

    def edit(self, project: Project, progress: Progress) -> Edit:
        """Run the stroke and take it back again; see `Command.edit`. Live callers use `LiveStroke`."""
        live = LiveStroke(project, self)
        try:
            edit = live.finish_with(self.samples, progress)
        except BaseException:
            live.abort()
            raise
        edit.revert(project)
        return edit


class LiveStroke:
    """A stroke that is still going on.

    Parameters
    ----------
    project : Project
    start : Stroke
        Body, brush and settings; its samples are not used.

    Raises
    ------
    InvalidInput
        Something of the command cannot be used; nothing was changed.
    """

    def __init__(self, project: Project, start: Stroke) -> None:
        where = f"stroke with {start.brush}"
        self._project = project
        self._start = start
        self._brush = brush_named(start.brush, "stroke")
        self._body = project.body_named(start.body, where)
        if self._body.locked:
            raise InvalidInput(f"{where}: the body {start.body!r} is locked; unlock it first")
        values = complete(self._brush.all_settings, start.settings, where)
        ground = -1
        if self._brush.needs_ground:
            _, ground = ground_to_lay(project, start.ground, where)
        elif start.ground:
            raise InvalidInput(f"{where}: this brush takes no ground")
        if start.invert and not self._brush.inverse:
            raise InvalidInput(f"{where}: this brush cannot be inverted")
        self._layer: Layer | None = None
        if self._brush.shapes and start.layer != FORM:
            self._layer = self._body.layer_named(start.layer, where)
            check_open(self._layer, where)
        if self._brush.check is not None:
            self._brush.check(values, where)
        if self._brush.grows(values) != "off":
            check_size(values, float(values["radius"]), where)  # type: ignore[arg-type]
        weights_of(self._body, len(project.grounds))
        self._there, self._count = self._body.vertices.names, self._body.vertices.count
        self._owner, self._layers = self._body.coat_owner, self._body.layers
        target = None
        if self._brush.column in (WEIGHT, HAND):
            palette = Palette.of(project.grounds, project.blend)
            target = PaintTarget(self._body, self._brush, palette, ground)
        self._engine = Engine(self._body, self._brush, values, start.invert, ground, self._layer, target)
        self._follower: RuleFollower | None = None
        if self._brush.shapes and self._body.rules:
            names = tuple(entry.name for entry in project.grounds)
            self._follower = RuleFollower(self._body, names, self._engine.note)
        self._samples: list[tuple[float, ...]] = []

    @property
    def body(self) -> Body:
        """The body that is being worked on."""
        return self._body

    @property
    def shapes(self) -> bool:
        """Whether it moves the surface."""
        return self._brush.shapes

    def add(self, numbers: tuple[float, ...], between: Callable[[], None] | None = None) -> Change:
        """Lay the dabs up to one more sample; the change names the rows that were written. See `sculpt.Stroke.add`."""
        sample = Sample.from_numbers(numbers, f"stroke with {self._brush.name}, sample {len(self._samples) + 1}")
        self._samples.append(tuple(float(number) for number in numbers))
        return self._changed(self._engine.add(sample, between))

    def settle(self) -> Change:
        """Let a steadied stroke catch up with the pointer, and ground rules with the shape; once, before `finish`."""
        change = self._changed(self._engine.settle())
        if self._follower is not None:
            change.rows += self._named(self._follower.settle())
        return change

    def finish(self) -> tuple[Stroke, Edit]:
        """The whole stroke as a command, and its edit, already applied."""
        command = Stroke(
            self._start.body,
            self._start.brush,
            tuple(self._samples),
            self._start.settings,
            self._start.ground,
            self._start.invert,
            self._start.layer,
        )
        deltas = self._deltas(self._engine.finish())
        fresh = self._fresh()
        if deltas:  # what came with the stroke goes with it
            deltas = [
                *(
                    ColumnDelta(self._body.ident, name, None, np.zeros((self._count, width), np.float32))
                    for name, width in fresh
                ),
                *deltas,
            ]
        else:
            self._drop(fresh)
        if deltas and self._layer is not None and self._layer.laid is not None:
            by_hand = msgspec.structs.replace(self._layer, laid=None)
            layers = tuple(by_hand if entry is self._layer else entry for entry in self._body.layers)
            delta = BodyDelta(self._body.ident, "layers", self._body.layers, layers)
            self._body.layers = layers
            deltas.append(delta)
        if self._owner != self._body.coat_owner:
            deltas.append(BodyDelta(self._body.ident, "coat_owner", self._owner, self._body.coat_owner))
        label = self._brush.inverse if self._start.invert else self._brush.label.split(" / ")[0]
        if self._start.ground:
            label = f"{label} {self._start.ground}"
        return command, Edit(label, tuple(deltas))

    def abort(self) -> Change:
        """Take back what was laid, in whatever state it broke off, and have all that is derived made anew."""
        body = self._body
        for delta in reversed(self._deltas(self._engine.finish())):
            with contextlib.suppress(Exception):
                delta.put(self._project, False, Change())
        drop_scratch(body)
        self._drop(self._fresh())
        body.coat_owner = self._owner
        body.layers = self._layers
        body.replaced()
        return Change(bodies={body.ident})

    def finish_with(self, samples: tuple[tuple[float, ...], ...], progress: Progress) -> Edit:
        """Check all samples, lay them all, and finish; can be stopped between two dabs."""
        for i, numbers in enumerate(samples):
            Sample.from_numbers(numbers, f"stroke with {self._brush.name}, sample {i + 1}")
        for i, numbers in enumerate(samples):
            between = partial(progress.step, i / len(samples), "laying the stroke")
            between()
            self.add(numbers, between)
        self.settle()
        return self.finish()[1]

    def _fresh(self) -> list[tuple[str, int]]:
        vertices = self._body.vertices
        return [
            (name, vertices.width(name))
            for name in vertices.names
            if name not in self._there and attribute_of(name).kept
        ]

    def _drop(self, fresh: list[tuple[str, int]]) -> None:
        for name, _ in fresh:
            self._body.vertices.drop_column(name)

    def _deltas(self, done: "list[Written] | tuple[Patch, Patch]") -> list[Delta]:
        if isinstance(done, tuple):
            return [PatchDelta(self._body.ident, *done)]
        return [RowsDelta(self._body.ident, part.column, part.rows, part.before, part.after) for part in done]

    def _changed(self, touched: list[Touched]) -> Change:
        if self._follower is not None:
            touched = touched + self._follower.after(touched)
        return Change(self._named(touched))

    def _named(self, touched: list[Touched]) -> list[tuple[int, str, NDArray[np.int32]]]:
        return [(self._body.ident, part.column, part.rows) for part in touched]


def check_open(layer: Layer, where: str) -> None:
    """Refuse a layer that cannot be worked on: locked, hidden, or at no strength."""
    if layer.locked:
        raise InvalidInput(f"{where}: the relief layer {layer.name!r} is locked; unlock it first")
    if not layer.shown:
        raise InvalidInput(f"{where}: the relief layer {layer.name!r} is hidden; show it first")
    if layer.strength == 0:
        raise InvalidInput(f"{where}: the relief layer {layer.name!r} has strength 0 %; turn it up first")
