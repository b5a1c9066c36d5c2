"""History: the one place where commands are applied, undone and redone."""

from collections.abc import Callable, Iterable
from dataclasses import dataclass

from hulmo.core.check_edit import check_after, check_edit
from hulmo.core.commands import Command, LiveStroke, Stroke
from hulmo.core.edit import Change, Delta, Edit, can_join, joined
from hulmo.core.errors import FileProblem
from hulmo.core.follow import followed, ruled_bodies
from hulmo.core.kept import Kept
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project
from hulmo.core.ride import PropRiders, Riders, changed_lines, retriangulated_by, shaped_by
from hulmo.core.sound import check_text
from hulmo.core.spill import OnDisk, Spill
from hulmo.core.stitch import Stitches, with_stitches

SMALL = 4096
"""Bytes below which an edit is not worth a file."""

Listener = Callable[[Change], None]


@dataclass(eq=False)
class Entry:
    """One step of the history; its edit may lie on disk."""

    command: Command
    edit: Edit | OnDisk

    def loaded(self) -> Edit:
        """Its edit, in memory from now on."""
        if isinstance(self.edit, OnDisk):
            self.edit = self.edit.load()
        return self.edit

    def forget(self) -> None:
        """Delete what lies on disk of it."""
        if isinstance(self.edit, OnDisk):
            self.edit.forget()


class History:
    """Applies commands to a project and remembers how to take them back.

    Whoever needs to know of changes subscribes; a change tells which rows and which project attributes were touched.

    Parameters
    ----------
    project : Project
    memory_cap : int
        Bytes of edits to keep in memory; beyond it the oldest go to disk, and are forgotten where that is full. At 0 they
        are forgotten at once.
    """

    def __init__(self, project: Project, memory_cap: int = 2_000_000_000) -> None:
        self.project = project
        self._cap = memory_cap
        self._spill = Spill()
        self._done: list[Entry] = []
        self._undone: list[Entry] = []
        self._listeners: list[Listener] = []
        self._recorders: list[Callable[[Command | str], None]] = []
        self._stroke: LiveStroke | None = None
        self._riders = Riders(project, set())
        self._prop_riders = PropRiders(project, set())
        self._preview: Entry | None = None
        self._saved: Entry | None = None
        self._forgot_saved = False
        self.lets_rules_wait = False
        """Whether ground rules are not laid anew now: whoever sets it lays them later."""
        self.waiting_rules: set[int] = set()
        """Bodies whose rules were not laid anew."""

    @property
    def undo_label(self) -> str:
        """What `undo` would take back; empty when nothing."""
        return self._done[-1].edit.label if self._done else ""

    @property
    def redo_label(self) -> str:
        """What `redo` would do again; empty when nothing."""
        return self._undone[-1].edit.label if self._undone else ""

    @property
    def labels(self) -> tuple[list[str], int]:
        """Names of all remembered edits, oldest first, and how many of them are done (the rest is undone)."""
        entries = [*self._done, *reversed(self._undone)]
        return [entry.edit.label for entry in entries], len(self._done)

    @property
    def last_command(self) -> Command | None:
        """The command that `undo` would take back."""
        return self._done[-1].command if self._done else None

    @property
    def commands(self) -> list[Command]:
        """Commands that led here, oldest first."""
        return [entry.command for entry in self._done]

    @property
    def nbytes(self) -> int:
        """Bytes of all remembered edits."""
        return sum(entry.edit.nbytes for entry in (*self._done, *self._undone))

    @property
    def changed(self) -> bool:
        """Whether anything differs from the last saved state."""
        now = self._done[-1] if self._done else None
        return self._forgot_saved or now is not self._saved

    def mark_saved(self) -> None:
        """Remember the present state as the saved one."""
        self._saved = self._done[-1] if self._done else None
        self._forgot_saved = False

    def mark_changed(self) -> None:
        """Hold that the present state is not saved (after a recovery)."""
        self._forgot_saved = True

    def subscribe(self, listener: Listener) -> None:
        """Be told of every change."""
        self._listeners.append(listener)

    def record(self, recorder: Callable[[Command | str], None]) -> None:
        """Be told of every finished command, and of "undo" and "redo"."""
        self._recorders.append(recorder)

    def do(self, command: Command, progress: Progress | None = None) -> Edit:
        """Apply a command; a stroke that is going on is ended first.

        Raises
        ------
        InvalidInput, FileProblem, Cancelled
            The command could not be applied; the project is as before.
        """
        self.finish()  # otherwise the stroke's before and after would straddle this edit
        self.drop_preview()
        edit = self.prepare(command, progress)
        self.commit(command, edit)
        return edit

    def do_if_any(self, command: Command, progress: Progress | None = None) -> None:
        """Apply a command; one that changes nothing is not remembered."""
        self.finish()
        self.drop_preview()
        edit = self.prepare(command, progress)
        if edit.deltas:
            self.commit(command, edit)

    def do_instead(self, command: Command) -> None:
        """Apply a command in place of the last one: one step for all values that a dragged control gives.

        Raises
        ------
        InvalidInput
            The command could not be applied; the last one stays.
        """
        self.finish()
        self.drop_preview()
        last = self._done[-1] if self._done else None
        if last is None or self._undone:
            self.do(command)
            return
        together = None
        if can_join(last.loaded()):
            edit = self.prepare(command)
            together = joined(last.loaded(), edit)
        if together is None:
            self.undo()
            try:
                self.do(command)
            except BaseException:
                self.redo()
                raise
            return
        edit, change = self._apply(command, edit)
        if last is self._saved:
            self._saved, self._forgot_saved = None, True
        self._done[-1] = Entry(command, together)
        self._note("undo")
        self._note(command)
        self._tell(change)

    def prepare(self, command: Command, progress: Progress | None = None) -> Edit:
        """The edit of a command, not yet applied; may run in another thread while the project is left alone."""
        progress = progress or silent()
        _check_text(command)
        edit = command.edit(self.project, progress)
        if self.lets_rules_wait and not command.lays_rules:
            self.waiting_rules |= ruled_bodies(self.project, edit)
        elif not command.lays_rules:
            edit = followed(self.project, edit, progress)
        check_edit(self.project, edit)
        return edit

    def commit(self, command: Command, edit: Edit) -> None:
        """Apply and remember what `prepare` returned."""
        self.drop_preview()
        edit, change = self._apply(command, edit)
        self._remember(command, edit)
        self._tell(change)

    def commit_following(self, command: Command, edit: Edit) -> None:
        """Apply what follows from the last step, as part of it: one undo takes both back.

        Recorders are not told: whoever does the step again gets what follows from it as well.
        """
        last = self._done[-1] if self._done else None
        if last is None or self._undone:
            self.commit(command, edit)
            return
        self.drop_preview()
        edit, change = self._apply(command, edit)
        if last is self._saved:
            self._saved, self._forgot_saved = None, True
        before = last.loaded()
        self._done[-1] = Entry(last.command, Edit(before.label, (*before.deltas, *edit.deltas)))
        self._tell(change)

    def preview(self, command: Command, edit: Edit) -> None:
        """Apply what `prepare` returned for now: `keep_preview` remembers it, anything else takes it back first."""
        self.drop_preview()
        edit, change = self._apply(command, edit)
        self._preview = Entry(command, edit)
        self._tell(change)

    @property
    def previewed(self) -> Command | None:
        """The command that is only applied for now."""
        return None if self._preview is None else self._preview.command

    def keep_preview(self) -> bool:
        """Remember what is previewed; False when nothing is."""
        if self._preview is None:
            return False
        entry, self._preview = self._preview, None
        self._remember(entry.command, entry.loaded())
        self._tell(Change())
        return True

    def drop_preview(self, quiet: bool = False) -> Change:
        """Take what is previewed back; `quiet` leaves it to the caller to tell the listeners."""
        if self._preview is None:
            return Change()
        entry, self._preview = self._preview, None
        change = entry.loaded().revert(self.project)
        if not quiet:
            self._tell(change)
        return change

    def tell(self, change: Change) -> None:
        """Tell all listeners of a change that was made quietly."""
        self._tell(change)

    def begin(self, start: Stroke) -> None:
        """Begin a live stroke; feed it with `sample`, end it with `finish`.

        Raises
        ------
        InvalidInput
            The stroke cannot begin.
        """
        self.drop_preview()
        self._stroke = LiveStroke(self.project, start)
        self._riders = Riders(self.project, self._stroke.bodies)
        self._prop_riders = PropRiders(self.project, self._stroke.bodies)

    @property
    def stroking(self) -> bool:
        """Whether a live stroke is going on."""
        return self._stroke is not None

    def sample(self, numbers: tuple[float, ...]) -> Change:
        """One more sample of the live stroke."""
        assert self._stroke is not None, "sample() outside begin() and finish()"
        try:
            change = self._stroke.add(numbers)
        except BaseException:
            self.abort()
            raise
        if change.rows:
            self._tell(change)
        return change

    def finish(self) -> Edit | None:
        """End the live stroke; a stroke that changed nothing is not remembered."""
        if self._stroke is None:
            return None
        try:
            last = self._stroke.settle()
            command, edit = self._stroke.finish()
            check_edit(self.project, edit)
            edit = self._ridden(edit, self._riders, self._prop_riders, last)
            check_after(self.project, last)
        except BaseException:
            self.abort()
            raise
        self._stroke = None
        if not edit.deltas:
            return None
        self._remember(command, edit)
        self._tell(last)
        return edit

    def abort(self) -> None:
        """Break a live stroke off: the project is as before it began."""
        stroke, self._stroke = self._stroke, None
        if stroke is not None:
            self._tell(stroke.abort())

    def undo(self) -> bool:
        """Take a preview back, or else the last edit; False when there is none or a stroke is going on."""
        if self._preview is not None:
            self.drop_preview()
            return True
        if not self._done or self._stroke is not None:
            return False
        entry = self._done[-1]
        change = self._loaded(entry, self._done).revert(self.project)
        self._undone.append(self._done.pop())
        self._note("undo")
        self._tell(change)
        return True

    def redo(self) -> bool:
        """Do the last undone edit again; False when there is none or a stroke is going on."""
        self.drop_preview()
        if not self._undone or self._stroke is not None:
            return False
        entry = self._undone[-1]
        change = self._loaded(entry, self._undone).apply(self.project)
        self._done.append(self._undone.pop())
        self._note("redo")
        self._tell(change)
        return True

    def jump(self, count: int) -> None:
        """Undo or redo until exactly `count` of the remembered edits are done."""
        while len(self._done) > count and self.undo():
            pass
        while len(self._done) < count and self.redo():
            pass

    def _apply(self, command: Command, edit: Edit) -> tuple[Edit, Change]:
        # the edit with what goes along with it
        kept = Kept(self.project, edit, command.moves_whole)
        riders = Riders(self.project, shaped_by(edit), changed_lines(self.project, edit))
        prop_riders = PropRiders(self.project, retriangulated_by(edit))
        stitches = Stitches(self.project)
        change = edit.apply(self.project)
        try:
            try:
                edit = with_stitches(edit, stitches.deltas(change))
            except BaseException:
                stitches.revert()  # the rest is taken back below
                raise
            edit = self._ridden(edit, riders, prop_riders, change)
            check_after(self.project, change)
            kept.check()
        except BaseException:
            edit.revert(self.project)
            raise
        return edit, change

    def _ridden(self, edit: Edit, riders: Riders, prop_riders: PropRiders, change: Change) -> Edit:
        line = riders.delta()
        rides: list[Delta] = [*prop_riders.deltas(), *([] if line is None else [line])]
        for ride in rides:
            ride.put(self.project, True, change)
        return Edit(edit.label, (*edit.deltas, *rides)) if rides else edit

    def _loaded(self, entry: Entry, pile: list[Entry]) -> Edit:
        try:
            return entry.loaded()
        except FileProblem:
            # neither this step nor any behind it can be reached any more
            if pile is self._done:
                self._forgot_saved = self._forgot_saved or self._saved is not (pile[-1] if pile else None)
            for lost in pile:
                lost.forget()
            pile.clear()
            self._tell(Change())
            raise

    def _remember(self, command: Command, edit: Edit) -> None:
        if any(entry is self._saved for entry in self._undone):
            self._forgot_saved = True
        self._done.append(Entry(command, edit))
        for entry in self._undone:
            entry.forget()
        self._undone.clear()
        self._note(command)
        if len(self._done) % 16 == 0 or edit.nbytes > self._cap // 16:
            self._make_room()

    def _make_room(self) -> None:
        # the newest step always stays, whatever it holds
        wanted = sum(entry.edit.nbytes for entry in self._done[:-1]) - self._cap
        for entry in self._done[:-1]:
            if wanted <= 0:
                return
            edit = entry.edit
            if isinstance(edit, OnDisk) or edit.nbytes < SMALL:
                continue
            spilled = self._spill.put(edit) if self._cap else None
            if spilled is not None:
                wanted -= edit.nbytes
                entry.edit = spilled
        # what could not be put on disk is forgotten, and with it whatever lies before it
        while wanted > 0:
            first = next((i for i, entry in enumerate(self._done[:-1]) if entry.edit.nbytes >= SMALL), None)
            if first is None:
                return
            if self._saved is None:
                self._forgot_saved = True  # the saved state lay before what is now forgotten
            for entry in self._done[: first + 1]:
                wanted -= entry.edit.nbytes
                entry.forget()
            del self._done[: first + 1]

    def _note(self, what: Command | str) -> None:
        for recorder in self._recorders:
            recorder(what)

    def _tell(self, change: Change) -> None:
        for listener in self._listeners:
            listener(change)


def _check_text(command: Command) -> None:
    # a command that cannot be written down could be neither recovered nor put into a recipe
    for name, value in _texts(command):
        check_text(value, f"{command.__struct_config__.tag}, {name}")


def _texts(command: Command) -> Iterable[tuple[str, str]]:
    for name in command.__struct_fields__:
        value = getattr(command, name)
        if isinstance(value, str):
            yield name, value
        elif isinstance(value, dict):
            yield from ((str(key), entry) for key, entry in value.items() if isinstance(entry, str))
