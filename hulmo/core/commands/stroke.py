"""A brush stroke, whole or live."""

import pathlib
from collections.abc import Callable
from functools import partial
from typing import Any, Self

import msgspec

from hulmo.core.brushes import BRUSHES, brush_named
from hulmo.core.commands.command import Command
from hulmo.core.commands.painted import ground_to_lay
from hulmo.core.commands.stroke_part import StrokePart
from hulmo.core.edit import Change, ColumnDelta, Edit
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.layer import FORM, Layer
from hulmo.core.named_files import images_of, with_located_images
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.sculpt.company import Company
from hulmo.core.sculpt.growth import check_size
from hulmo.core.sculpt.sampler import Sample
from hulmo.core.setting import complete
from hulmo.core.stitch import Stitches


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
        Relief layer that shaping brushes work on; empty for the form. Every body the stroke goes over needs one of that name.
    over : list of str
        Other bodies that the stroke goes over as well.
    """

    body: str
    brush: str
    samples: tuple[tuple[float, ...], ...]
    settings: dict[str, Any] = {}
    ground: str = ""
    invert: bool = False
    layer: str = FORM
    over: tuple[str, ...] = ()

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
        Bodies, brush and settings; its samples are not used.

    Raises
    ------
    InvalidInput
        Something of the command cannot be used; nothing was changed.
    """

    def __init__(self, project: Project, start: Stroke) -> None:
        where = f"stroke with {start.brush}"
        self._start = start
        self._brush = brush_named(start.brush, "stroke")
        names = (start.body, *(name for name in dict.fromkeys(start.over) if name != start.body))
        bodies = [project.unlocked_body(name, where) for name in names]
        values = complete(self._brush.all_settings, start.settings, where)
        ground = -1
        if self._brush.needs_ground:
            _, ground = ground_to_lay(project, start.ground, where)
        elif start.ground:
            raise InvalidInput(f"{where}: this brush takes no ground")
        if start.invert and not self._brush.inverse:
            raise InvalidInput(f"{where}: this brush cannot be inverted")
        layers: list[Layer | None] = [None] * len(bodies)
        if self._brush.shapes and start.layer != FORM:
            layers = [body.layer_named(start.layer, where) for body in bodies]
            for layer in layers:
                assert layer is not None
                check_open(layer, where)
        if self._brush.check is not None:
            self._brush.check(values, where)
        if self._brush.grows(values) != "off":
            check_size(values, float(values["radius"]), where)  # type: ignore[arg-type]
        self._stitches = Stitches(project)
        self._parts = [
            StrokePart(project, body, self._brush, values, start.invert, ground, layer)
            for body, layer in zip(bodies, layers, strict=True)
        ]
        self._lead = self._parts[0].engine
        if len(self._parts) > 1:
            Company([part.engine for part in self._parts])
            for part in self._parts:
                part.engine.remember(self._stitches.rows_of(part.body))
        self._samples: list[tuple[float, ...]] = []

    @property
    def bodies(self) -> set[int]:
        """Numbers of the bodies whose surface it moves."""
        return {part.body.ident for part in self._parts} if self._brush.shapes else set()

    def add(self, numbers: tuple[float, ...], between: Callable[[], None] | None = None) -> Change:
        """Lay the dabs up to one more sample; the change names the rows that were written. See `sculpt.Stroke.add`."""
        sample = Sample.from_numbers(numbers, f"stroke with {self._brush.name}, sample {len(self._samples) + 1}")
        self._samples.append(tuple(float(number) for number in numbers))
        touched = self._lead.add(sample, between)
        change = Change()
        for part in self._parts:
            change.rows += part.named(touched if part.engine is self._lead else part.meanwhile())
        self._stitches.follow(change)
        return change

    def settle(self) -> Change:
        """Let a steadied stroke catch up with the pointer, and ground rules with the shape; once, before `finish`."""
        change = Change()
        for part in self._parts:
            touched = part.engine.settle()
            change.rows += part.named(touched)
        for part in self._parts:
            change.rows += part.named(part.meanwhile())
            change.rows += part.settled()
        self._stitches.follow(change)
        return change

    def finish(self) -> tuple[Stroke, Edit]:
        """The whole stroke as a command, and its edit, already applied."""
        command = msgspec.structs.replace(self._start, samples=tuple(self._samples))
        followed, after = self._stitches.followed()
        deltas = [delta for part in self._parts for delta in part.finish()]
        label = self._brush.inverse if self._start.invert else self._brush.label.split(" / ")[0]
        if self._start.ground:
            label = f"{label} {self._start.ground}"
        fresh = [delta for delta in deltas if isinstance(delta, ColumnDelta)]
        rest = [delta for delta in deltas if not isinstance(delta, ColumnDelta)]
        return command, Edit(label, (*fresh, *followed, *rest, *after))

    def abort(self) -> Change:
        """Take back what was laid, in whatever state it broke off, and have all that is derived made anew."""
        self._stitches.revert()
        for part in self._parts:
            part.abort()
        bodies = {part.body.ident for part in self._parts}
        for body in self._stitches.bodies:
            if body.ident not in bodies:
                body.all_moved()
        return Change(bodies=bodies | {body.ident for body in self._stitches.bodies})

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


def check_open(layer: Layer, where: str) -> None:
    """Refuse a layer that cannot be worked on: locked, hidden, or at no strength."""
    if layer.locked:
        raise InvalidInput(f"{where}: the relief layer {layer.name!r} is locked; unlock it first")
    if not layer.shown:
        raise InvalidInput(f"{where}: the relief layer {layer.name!r} is hidden; show it first")
    if layer.strength == 0:
        raise InvalidInput(f"{where}: the relief layer {layer.name!r} has strength 0 %; turn it up first")
