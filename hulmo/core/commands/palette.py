"""Duplicate, reorder, swap, merge and replace grounds of the palette."""

from collections.abc import Callable

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.command import Command
from hulmo.core.edit import BodyDelta, ColumnDelta, Delta, Edit, FieldDelta, SlotColumnDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.follow import kept_deltas, laid_anew
from hulmo.core.ground.check_ground import check_room
from hulmo.core.ground.columns import added, merged, ordered
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.hand import added_up
from hulmo.core.ground.rules import renamed
from hulmo.core.ground.weights import HAND, RULED, WEIGHT, filled, weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.chosen_parts import ONE_GROUND
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project, free_name

Weights = NDArray[np.float32]


def palette_deltas(
    project: Project,
    grounds: tuple[Ground, ...],
    change: Callable[[Weights], Weights],
    base: Callable[[int], int] = lambda old: old,
    progress: Progress | None = None,
    rename: tuple[str, str] | None = None,
) -> list[Delta]:
    """Deltas to another palette, in all bodies.

    Parameters
    ----------
    project : Project
    grounds : tuple of Ground
        The later palette.
    change : callable
        From the columns of hand paint, (N, G), to those of the later palette.
    base : callable
        From the earlier to the later column of a body's base ground.
    progress : Progress, optional
    rename : (old, new), optional
        A ground that rules are to name instead of another one.
    """
    names = tuple(ground.name for ground in grounds)
    old_names = [name if rename is None or name != rename[0] else rename[1] for name in project.ground_names]
    places = [1 + names.index(name) if name in names else 0 for name in old_names]
    deltas: list[Delta] = []
    for body in project.bodies:
        weight = weights_of(body, len(project.grounds))
        hand = body.vertices.get(HAND)
        work = body.view()
        work.base, work.rules = base(body.base), body.rules
        if rename is not None:
            work.rules = renamed(body.rules, *rename)
        deltas += face_deltas(body, places)
        later = None if hand is None else change(hand)
        ruled = filled(body.vertices.count, len(names), work.base)
        if work.rules:
            ruled = laid_anew(work, names, progress or silent())
            before = body.vertices[RULED].copy() if RULED in body.vertices else None
            deltas += [ColumnDelta(body.ident, RULED, before, ruled), *kept_deltas(body, work)]
        after = ruled if later is None else added_up(later, ruled)
        deltas.append(ColumnDelta(body.ident, WEIGHT, weight.copy(), after))
        if hand is not None:
            deltas.append(ColumnDelta(body.ident, HAND, hand.copy(), later))
        for name in ("base", "rules"):
            if getattr(work, name) != getattr(body, name):
                deltas.append(BodyDelta(body.ident, name, getattr(body, name), getattr(work, name)))
    deltas.append(FieldDelta("grounds", project.grounds, grounds))
    return deltas


def face_deltas(body: Body, places: list[int]) -> list[Delta]:
    """Deltas of the faces that have one ground, to another palette: 1 + the later column for each earlier one, or 0."""
    before = body.corners.slots.get(ONE_GROUND)
    if before is None:
        return []
    after = np.array([0, *places], np.float32)[np.minimum(before, len(places)).astype(np.int64)]
    if np.array_equal(before, after):
        return []
    return [SlotColumnDelta(body.ident, "face", ONE_GROUND, before.copy(), after if after.any() else None)]


class DuplicateGround(Command, frozen=True, tag="duplicate_ground"):
    """Add a ground with the values of another one; nothing of it lies anywhere yet."""

    ground: str
    name: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        column = project.ground_named(self.ground, "duplicate_ground")
        check_room(len(project.grounds) + 1, "duplicate_ground")
        taken = [ground.name for ground in project.grounds]
        if self.name in taken:
            raise InvalidInput(f"duplicate_ground: there already is a ground {self.name!r}; choose another name")
        copy = msgspec.structs.replace(
            project.grounds[column], name=self.name or free_name(self.ground, taken), locked=False
        )
        return Edit(f"Duplicate ground {self.ground}", tuple(palette_deltas(project, (*project.grounds, copy), added)))


class MoveGround(Command, frozen=True, tag="move_ground"):
    """Give a ground another place in the palette, counted from 0; what lies where stays.

    Attributes
    ----------
    place : int
        From 0.
    """

    ground: str
    place: int

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        column = project.ground_named(self.ground, "move_ground")
        if not 0 <= self.place < len(project.grounds):
            raise InvalidInput(
                f"move_ground: place is {self.place}; it must lie between 0 and {len(project.grounds) - 1}"
            )
        order = [i for i in range(len(project.grounds)) if i != column]
        order.insert(self.place, column)
        grounds = tuple(project.grounds[i] for i in order)
        places = np.array(order)
        return Edit(
            f"Move ground {self.ground}",
            tuple(palette_deltas(project, grounds, lambda weights: ordered(weights, places), order.index, progress)),
        )


class SwapGrounds(Command, frozen=True, tag="swap_grounds"):
    """Lay one ground where the other one lies, and the other way round, by hand and by rule, on every body.

    Attributes
    ----------
    other : str
        A ground.
    """

    ground: str
    other: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`. The columns stay, the grounds that they stand for change places."""
        one, two = (project.ground_named(name, "swap_grounds") for name in (self.ground, self.other))
        if one == two:
            raise InvalidInput("swap_grounds: a ground cannot be swapped with itself; name another one")
        order = list(range(len(project.grounds)))
        order[one], order[two] = two, one
        places = np.array(order)
        deltas: list[Delta] = []
        for body in project.bodies:
            between = "\0"
            rules = renamed(
                renamed(renamed(body.rules, self.ground, between), self.other, self.ground), between, self.other
            )
            if rules != body.rules:
                deltas.append(BodyDelta(body.ident, "rules", body.rules, rules))
            if body.base in (one, two):
                deltas.append(BodyDelta(body.ident, "base", body.base, order[body.base]))
            deltas += face_deltas(body, [1 + place for place in order])
            weights_of(body, len(project.grounds))
            for name in (WEIGHT, HAND, RULED):
                if name in body.vertices:
                    before = body.vertices[name].copy()
                    deltas.append(ColumnDelta(body.ident, name, before, ordered(before, places)))
        return Edit(f"Swap {self.ground} and {self.other}", tuple(deltas))


class MergeGrounds(Command, frozen=True, tag="merge_grounds"):
    """Lay another ground wherever one lies, by hand and by rule, and remove the one from the palette.

    Attributes
    ----------
    into : str
        A ground that stays.
    """

    ground: str
    into: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        one, two = (project.ground_named(name, "merge_grounds") for name in (self.ground, self.into))
        if one == two:
            raise InvalidInput("merge_grounds: a ground cannot be merged into itself; name another one")
        grounds = project.grounds[:one] + project.grounds[one + 1 :]

        def base(old: int) -> int:
            new = two if old == one else old
            return new - (new > one)

        deltas = palette_deltas(
            project, grounds, lambda weights: merged(weights, one, two), base, progress, (self.ground, self.into)
        )
        return Edit(f"Merge {self.ground} into {self.into}", tuple(deltas))
