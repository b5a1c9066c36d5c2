"""Paint a body by images: grounds, guard, tint, or the heights of a relief layer."""

import pathlib
from typing import NamedTuple, Self

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.command import Command
from hulmo.core.commands.guard import guard_deltas, guard_of
from hulmo.core.commands.painted import painted
from hulmo.core.edit import ColumnDelta, Delta, Edit, RowsDelta
from hulmo.core.errors import FileProblem, InvalidInput, shown
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.painted_values import (
    PAINTED,
    checked_range,
    ground_values,
    guard_values,
    height_values,
    heights_of,
    tint_of,
    tint_values,
)
from hulmo.core.ground.palette import Palette
from hulmo.core.ground.sheet import Box, Sheet, sheet_of
from hulmo.core.ground.weights import weights_of
from hulmo.core.io.paint_file import read_paint
from hulmo.core.io.paint_note import BY, PaintNote
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.uv.sets import uv_column

Values = NDArray[np.float32]
Figures = NDArray[np.float64]


class _Read(NamedTuple):
    # (N, C) values at vertices, which of them lie within the images, and which of those the images say anew
    value: Values
    there: NDArray[np.bool_]
    sheet: Sheet
    size: tuple[int, int]
    full: int
    between: bool

    def told(self, now: NDArray[np.uint16]) -> NDArray[np.bool_]:
        # (N, C) where the images differ from those of (N, C) whole numbers, as they are
        if self.between:
            held = now.astype(np.float32) / np.float32(self.full)
        else:
            held = self.sheet.kept(now, self.full, *self.size)
        return np.asarray((np.abs(self.value - held) > 0.49 / self.full) & self.there[:, None])


class LayImages(Command, frozen=True, tag="lay_images"):
    """Paint a body by images.

    Attributes
    ----------
    body : str
    what : str
        grounds, guard, tint or relief.
    files : list of str
        Of grounds one grey image each, all of one size; of the guard and of a relief layer one grey image; of tint one
        colour image, and after it, if it is not to cover wholly, a grey one.
    grounds : list of str
        Grounds that the images are of, one a file. Where an image differs from what lies there, its ground gets just that
        share, and the others share the rest as they did.
    by : str
        uv, or above: seen from above, north at the top.
    into : str
        Name of the set of UV; empty for the first.
    box : [west, north, side]
        Metres: where an image from above begins, and how far it reaches; side 0: the body's extent.
    layer : str
        For relief: the layer that gets the heights.
    low, high : float
        For relief: metres that black and white stand for.
    between : bool
        Whether a vertex takes what lies between texels in proportion; otherwise what the texel that it lies in holds.
    """

    body: str
    what: str
    files: tuple[str, ...]
    grounds: tuple[str, ...] = ()
    by: str = "uv"
    into: str = ""
    box: Box = (0.0, 0.0, 0.0)
    layer: str = ""
    low: float = -1.0
    high: float = 1.0
    between: bool = False

    @classmethod
    def noted(cls, note: PaintNote, folder: pathlib.Path) -> Self:
        """The command that lays the images which a note in a folder tells of."""
        return cls(**msgspec.structs.asdict(note)).located(folder)

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return True

    def located(self, folder: pathlib.Path) -> Self:
        """See `Command.located`."""
        return msgspec.structs.replace(self, files=tuple(str(folder / file) for file in self.files))

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "lay_images"
        self._check(project, where)
        body = project.unlocked_body(self.body, where)
        progress.step(0.05, "reading the images")
        images = [read_paint(pathlib.Path(file), self._channels(i)) for i, file in enumerate(self.files)]
        if len({image.values.shape[:2] for image in images}) > 1:
            told = ", ".join(
                f"{pathlib.Path(file).name} {image.values.shape[1]} x {image.values.shape[0]}"
                for file, image in zip(self.files, images, strict=True)
            )
            raise FileProblem(f"{where}: the images are not of one size ({told}); bring them to one")
        sheet = sheet_of(body, self.by, uv_column(self.into, where), self.box if self.box[2] else None)
        progress.step(0.3, "laying them")
        value, there = sheet.read(np.concatenate([image.values for image in images], axis=2), self.between)
        if not there.any():
            raise InvalidInput(
                f"{where}: no vertex of {body.name!r} lies within the image; lay its UV, or the box, elsewhere"
            )
        height, width = images[0].values.shape[:2]
        full = round(1 / max(image.step for image in images))
        found = _Read(value, there, sheet, (width, height), full, self.between)
        progress.step(0.6, "painting")
        if self.what == "grounds":
            deltas = self._grounds(project, body, found)
        else:
            deltas = {"guard": _guard, "tint": _tint, "relief": self._relief}[self.what](body, found)
        return Edit(f"{PAINTED[self.what].label} from images", deltas)

    def _channels(self, number: int) -> int:
        return 3 if self.what == "tint" and number == 0 else 1

    def _check(self, project: Project, where: str) -> None:
        if self.what not in PAINTED:
            raise InvalidInput(f"{where}: what is {shown(self.what)}; it must be one of {', '.join(PAINTED)}")
        if self.by not in BY:
            raise InvalidInput(f"{where}: by is {shown(self.by)}; it must be uv or above")
        if not np.isfinite(self.box).all() or not 0 <= self.box[2] <= 1e7 or (0 < self.box[2] < 1e-6):
            raise InvalidInput(f"{where}: box must be three finite numbers, its side 0 or up to 10000000 m")
        most = {"grounds": len(self.grounds), "guard": 1, "tint": 2, "relief": 1}[self.what]
        least = most if self.what == "grounds" else 1
        if not max(least, 1) <= len(self.files) <= max(most, 1):
            wanted = "one a ground" if self.what == "grounds" else "one or two" if most > 1 else "one"
            raise InvalidInput(f"{where}: {len(self.files)} images are named for {self.what}; name {wanted}")
        if self.what == "grounds":
            columns = [project.ground_named(name, where) for name in self.grounds]
            if len(set(columns)) < len(columns) or not columns:
                raise InvalidInput(
                    f"{where}: each ground once, and at least one; given are {', '.join(self.grounds) or 'none'}"
                )
        if self.what == "relief":
            checked_range(self.low, self.high, where)

    def _grounds(self, project: Project, body: Body, read: _Read) -> tuple[Delta, ...]:
        palette = Palette.of(project.grounds, project.blend)
        columns = np.array([project.ground_named(name, "lay_images") for name in self.grounds])
        before = weights_of(body, palette.count)
        told = read.told(ground_values(body, palette.count, read.full)[:, columns])
        rows = np.flatnonzero(told.any(axis=1) & (body.corners.first_corner >= 0)).astype(np.int32)
        if not rows.size:
            return ()
        new = _shared(before[rows].astype(np.float64), read.value[rows].astype(np.float64), told[rows], columns)
        amount = np.ones(rows.size, np.float32)
        free = body.free_share(rows)
        if free is not None:
            amount *= free
        reached = amount > 0
        rows, amount, new = rows[reached], amount[reached], new[reached]
        new = before[rows] + (new.astype(np.float32) - before[rows]) * amount[:, None]
        return painted(body, rows, amount, np.ascontiguousarray(new, np.float32), palette)

    def _relief(self, body: Body, read: _Read) -> tuple[Delta, ...]:
        layer = body.layer_named(self.layer, "lay_images")
        if layer.locked:
            raise InvalidInput(f"lay_images: the relief layer {layer.name!r} is locked; unlock it first")
        height, normal = heights_of(body, layer)
        span = self.high - self.low
        rows = np.arange(body.vertices.count, dtype=np.int32)
        told = read.told(height_values(body, layer, self.low, self.high, read.full)[0])[:, 0]
        change = np.where(told, self.low + read.value[:, 0].astype(np.float64) * span - height, 0.0)
        free, held = body.free_share(rows), body.held(rows)
        if free is not None:
            change *= free
        if held is not None:
            change[held] = 0.0
        rows = np.flatnonzero(change).astype(np.int32)
        if not rows.size:
            return ()
        before = body.vertices[layer.column][rows].copy()
        after = (before + normal[rows] * change[rows, None]).astype(np.float32)
        return (RowsDelta(body.ident, layer.column, rows, before, after),)


def _guard(body: Body, read: _Read) -> tuple[Delta, ...]:
    now = guard_of(body)
    changed = read.told(guard_values(body, read.full))[:, 0]
    return guard_deltas(body, np.where(changed, read.value[:, 0], now).astype(np.float32))


def _tint(body: Body, read: _Read) -> tuple[Delta, ...]:
    now_whole = tint_values(body, read.full)
    value = read.value
    if value.shape[1] == 3:  # it covers wholly
        value = np.concatenate((value, np.ones((value.shape[0], 1), np.float32)), axis=1)
        anew = read.told(now_whole[:, :3])
        anew[:, 0] |= read.there & (now_whole[:, 3] < read.full)
    else:
        anew = read.told(now_whole)
    wanted = tint_of(value)
    known = body.vertices.get(TINT)
    now = np.zeros_like(wanted) if known is None else known.copy()
    rows = np.flatnonzero(anew.any(axis=1) & (wanted != now).any(axis=1)).astype(np.int32)
    if not rows.size:
        return ()
    free = body.free_share(rows)
    part = np.ones(rows.size, np.float32) if free is None else free
    after = (now[rows] + part[:, None] * (wanted[rows] - now[rows])).astype(np.float32)
    if known is None:
        now[rows] = after
        return (ColumnDelta(body.ident, TINT, None, now),)
    return (RowsDelta(body.ident, TINT, rows, known[rows].copy(), after),)


def _shared(before: Figures, value: Figures, told: NDArray[np.bool_], columns: NDArray[np.intp]) -> Figures:
    # grounds whose image says something new get it; the rest share what is left as they did
    wanted = np.full(before.shape, -1.0)
    wanted[:, columns] = np.where(told, np.maximum(value, 0.0), -1.0)
    said = wanted >= 0
    given = np.where(said, wanted, 0.0)
    total = given.sum(axis=1, keepdims=True)
    rest = np.where(said, 0.0, before)
    have = rest.sum(axis=1, keepdims=True)
    left = np.maximum(1.0 - total, 0.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        out = np.where(
            (total <= 1.0) & (have > 0), given + rest * np.where(have > 0, left / have, 0.0),
            np.where(total > 0, given / total, before),
        )  # fmt: skip
    return np.asarray(out)
