"""What the window works on: the project with its history, the file it came from, the tool in hand."""

import pathlib
from collections.abc import Callable
from typing import Any

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from hulmo.app.bore_path import BorePath
from hulmo.app.brush_settings import BrushSettings
from hulmo.app.chooser import Chooser
from hulmo.app.dragged_steps import MERGE_WITHIN, DraggedSteps
from hulmo.app.handwork import HAND_SETTINGS
from hulmo.app.job import Job
from hulmo.app.line_work import LineWork
from hulmo.app.measures_later import MeasuresLater
from hulmo.app.outside_files import OutsideFiles
from hulmo.app.part_chooser import PartChooser
from hulmo.app.plain_words import plain_words
from hulmo.app.preset_shelf import PresetShelf
from hulmo.app.preview import Preview
from hulmo.app.prop_work import PropWork
from hulmo.app.recent_files import remember_file
from hulmo.app.rules_later import RulesLater
from hulmo.app.safety import Safety
from hulmo.app.stages import STAGES, Stage, Tool, stage_of, tool_named
from hulmo.app.strew_later import StrewLater
from hulmo.app.walk_settings import WALK
from hulmo.app.waters_later import WatersLater
from hulmo.core.brushes import BRUSHES
from hulmo.core.commands import Command
from hulmo.core.counted import counted
from hulmo.core.edit import Change
from hulmo.core.errors import HulmoError
from hulmo.core.ground.weights import weights_of
from hulmo.core.history import History
from hulmo.core.io.content_mark import content_mark
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.journal import Leftover, Recovered, recover
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import FORM
from hulmo.core.objects import standing
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.presets import Preset
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Values, complete
from hulmo.core.there import is_there

WAIT = "Please wait until the present work is done, or stop it."


class Session(QObject):
    """State of one window and the way to change it.

    Signals
    -------
    replaced
        Another project is open.
    changed : Change
        An edit touched the project.
    tool_changed
        Another stage or tool.
    settings_changed
        A brush setting, the ground in hand or the active body is another one.
    saved_changed
        Name, file or saved state changed.
    job_changed
        A job began, went on or ended.
    noticed : str
        Something the user should read.
    """

    replaced = pyqtSignal()
    changed = pyqtSignal(object)
    tool_changed = pyqtSignal()
    settings_changed = pyqtSignal()
    saved_changed = pyqtSignal()
    job_changed = pyqtSignal()
    noticed = pyqtSignal(str)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.history = History(Project())
        self.path: pathlib.Path | None = None
        self.stage: Stage = STAGES[0]
        self.tool: Tool = STAGES[0].tools[0]
        self.ground = 0
        self._ground_chosen = False
        self.body_ident = 0
        self.layer = FORM
        self.object_ident = 0
        self.brushes = BrushSettings(self)
        self.presets = PresetShelf(self)
        self.bore = BorePath(self)
        self.chooser = Chooser(self)
        self.parts = PartChooser(self)
        self.lines = LineWork(self)
        self.props = PropWork(self)
        self.walk: Values = complete(WALK, {}, "walk")
        self.hand_values: Values = complete(HAND_SETTINGS, {}, "by hand")
        self.once = ""
        self.outside = OutsideFiles(self)
        self.safety = Safety(self)
        self.preview = Preview(self)
        self.job: Job | None = None
        self.held = False
        """Whether work in the background waits: until the first picture is on the screen."""
        self.drags = DraggedSteps(self)
        self._last_tool: dict[str, Tool] = {}
        self._known_mark = ""
        self.rules = RulesLater(self, round(1000 * MERGE_WITHIN) + 100)
        self.measures = MeasuresLater(self)
        self.waters = WatersLater(self)
        self.strewing = StrewLater(self)
        self.brushes.changed.connect(self.settings_changed)
        self.presets.problem.connect(self.noticed)
        self._attach(self.history, None, None)

    @property
    def project(self) -> Project:
        """The open project."""
        return self.history.project

    @property
    def body(self) -> Body | None:
        """The body that brushes act on."""
        bodies = self.project.bodies
        return next((body for body in bodies if body.ident == self.body_ident), bodies[-1] if bodies else None)

    @property
    def unsaved(self) -> bool:
        """Whether there is work that is in no file."""
        return self.history.changed

    @property
    def busy(self) -> bool:
        """Whether a job is under way; the project is left alone meanwhile."""
        return self.job is not None

    # tools and settings

    def choose_stage(self, stage: Stage) -> None:
        """Open a stage with the tool last used in it."""
        self.choose_tool(self._last_tool.get(stage.name, stage.tools[0]))

    def choose_tool(self, tool: Tool) -> None:
        """Take a tool in hand; what was only shown with another one is taken back."""
        if tool is not self.tool:
            self.preview.settle(lambda: None)
        self.tool, self.stage, self.once = tool, stage_of(tool), ""
        self._offer_ground()
        self._last_tool[self.stage.name] = tool
        self.tool_changed.emit()

    def do_once(self, what: str) -> None:
        """Let the next press on the canvas do something else than the tool in hand: "pick" or "figure"; empty for nothing."""
        self.once = what
        self.tool_changed.emit()

    def choose_ground(self, column: int) -> None:
        """Take a ground in hand."""
        self.ground = max(0, min(column, len(self.project.grounds) - 1))
        self._ground_chosen = True
        self.settings_changed.emit()

    def _offer_ground(self) -> None:
        # a ground that lies everywhere already would show nothing: until one is chosen, begin with one that does not
        body = self.body
        if self._ground_chosen or self.tool.kind != "brush" or not BRUSHES[self.tool.name].needs_ground or body is None:
            return
        weights = weights_of(body, len(self.project.grounds))
        partly = (weights.min(axis=0) < 1.0).nonzero()[0] if weights.size else np.empty(0, int)
        if partly.size:
            self.choose_ground(int(partly[0]))

    def choose_body(self, ident: int) -> None:
        """Make a body the active one."""
        self.body_ident = ident
        self.layer = FORM
        self.brushes.fit(self.body)
        self.settings_changed.emit()

    @property
    def object(self) -> SceneObject | None:
        """The object of the scene that is chosen; the last one where none is."""
        objects = standing(self.project.objects)
        return next((entry for entry in objects if entry.ident == self.object_ident), objects[-1] if objects else None)

    def choose_object(self, ident: int) -> None:
        """Choose an object of the scene."""
        self.object_ident = ident
        self.settings_changed.emit()

    def choose_layer(self, name: str) -> None:
        """Make a relief layer, or the form, the one that shaping brushes work on."""
        self.layer = name
        self.settings_changed.emit()

    def use_preset(self, preset: Preset) -> None:
        """Give a brush the settings of a preset and take it in hand."""
        self.choose_tool(tool_named("brush", preset.brush))
        self.brushes.use(preset)

    # changes

    def do(self, command: Command) -> bool:
        """Apply a command at once; what goes wrong is said in a notice."""
        return self.apply(self.history.do, command)

    def do_if_any(self, command: Command) -> bool:
        """As `do`, with no step of the history where nothing changes."""
        return self.apply(self.history.do_if_any, command)

    def apply(self, how: Callable[[Command], Any], command: Command) -> bool:
        """Have the history do a command one way or another; what goes wrong is said in a notice."""
        self.give_way()
        if self.busy:
            self.noticed.emit(WAIT)
            return False
        if not self.history.lets_rules_wait:
            self.rules.settle()
        try:
            how(command)
        except HulmoError as error:
            self.noticed.emit(plain_words(str(error)))
            return False
        return True

    def do_long(self, command: Command, then: Callable[[], None] | None = None) -> None:
        """Prepare a command in a thread and apply it when it is ready."""

        def finish(edit: Any) -> None:
            if not edit.deltas:
                self.noticed.emit(f"{edit.label}: there was nothing to change.")
                return
            self.history.commit(command, edit)
            if then is not None:
                then()

        self.start_job(lambda progress: self.history.prepare(command, progress), finish)

    @property
    def undo_label(self) -> str:
        """What `undo` would take back; empty when nothing."""
        own = self.own_steps
        return own.word if own is not None and own.points else self.history.undo_label

    @property
    def redo_label(self) -> str:
        """What `redo` would do again; empty when nothing."""
        own = self.own_steps
        return own.word if own is not None and own.taken else self.history.redo_label

    @property
    def own_steps(self) -> BorePath | None:
        """What is being drawn with the tool in hand and is taken back point by point, before steps of the history are."""
        return self.bore if self.bore.drawn_with(self.tool.kind) else None

    def undo(self) -> None:
        """Take back the last point of the passage that is being drawn, or the last edit."""
        own = self.own_steps
        if own is None or self.busy or not own.drop_last():
            self._go(self._undo_step)

    def redo(self) -> None:
        """Put the point of the passage there again that was taken back, or do the last undone edit again."""
        own = self.own_steps
        if own is None or self.busy or not own.put_again():
            self._go(self._redo_step)

    def _undo_step(self) -> None:
        last = None if self.history.previewed is not None else self.history.last_command
        if self.history.undo() and self.own_steps is not None and last is not None:
            self.own_steps.undone(last)

    def _redo_step(self) -> None:
        if self.history.redo() and self.own_steps is not None and self.history.last_command is not None:
            self.own_steps.redone(self.history.last_command)

    def jump(self, count: int) -> None:
        """Undo or redo until so many of the remembered edits are done."""
        self._go(lambda: self.history.jump(count))

    def _go(self, how: Callable[[], Any]) -> None:
        self.give_way()
        if self.busy:
            return
        if self.history.waiting_rules and not self.history.stroking:
            self.rules.lay(lambda: self._go(how))  # what follows from a step belongs to it, and is undone with it
            return
        try:
            how()
        except HulmoError as error:
            self.noticed.emit(plain_words(str(error)))

    # jobs

    def give_way(self) -> None:
        """Stop what is done in the background, for somebody who wants to work now."""
        self.measures.give_way()
        self.waters.give_way()
        self.strewing.give_way()

    def start_job(
        self, work: Callable[[Progress], Any], then: Callable[[Any], None], otherwise: Callable[[], None] | None = None
    ) -> None:
        """Run long work in a thread; `then` gets its result in this one, `otherwise` is called when there is none."""
        self.give_way()
        if self.busy:
            self.noticed.emit(WAIT)
            return
        self.history.finish()
        self.rules.settle()
        job = Job(work, self)
        self.job = job

        def ended() -> None:
            job.wait()
            job.deleteLater()
            self.job = None
            self.job_changed.emit()

        def succeeded(result: Any) -> None:
            ended()
            then(result)

        def failed(text: str) -> None:
            ended()
            if text or otherwise is None:
                self.noticed.emit(plain_words(text) or "Stopped. Nothing was changed.")
            if otherwise is not None:
                otherwise()

        def broke(error: BaseException) -> None:
            failed(self.safety.report(error))

        job.broke.connect(broke)
        job.progressed.connect(self.job_changed)
        job.succeeded.connect(succeeded)
        job.failed.connect(failed)
        job.start()
        self.job_changed.emit()

    # files

    def new(self) -> None:
        """Start an empty project."""
        self._attach(History(Project()), None, None)

    def open(self, path: pathlib.Path, as_copy: bool = False) -> None:
        """Open a project; `as_copy` leaves the file alone and asks for a name on saving."""

        def work(progress: Progress) -> History:
            project = open_project(path, progress)
            for body in project.bodies:
                progress.step(0.9, f"making the spatial index of {body.name}")
                _ = body.index
            return History(project)

        def opened(history: History) -> None:
            self._attach(history, path, None if as_copy else path)
            if not as_copy:
                remember_file(path)

        self.start_job(work, opened)

    def open_now(self, path: pathlib.Path, as_copy: bool = False) -> None:
        """Open a project before the window is up.

        Raises
        ------
        FileProblem
        """
        self._attach(History(open_project(path)), path, None if as_copy else path)
        if not as_copy:
            remember_file(path)

    def save(self, path: pathlib.Path, then: Callable[[], None] | None = None) -> None:
        """Write the project to a file."""

        def saved(_: Any) -> None:
            self.path = path
            self._known_mark = content_mark(path)
            self.history.mark_saved()
            self.safety.journal.saved(path)
            remember_file(path)
            self.saved_changed.emit()
            if then is not None:
                then()

        self.preview.settle(lambda: self.start_job(lambda progress: save_project(self.project, path, progress), saved))

    def recover(self, leftover: Leftover) -> None:
        """Bring unsaved work back."""

        def recovered(found: Recovered) -> None:
            self._attach(found.history, leftover.base, leftover.path, None if found.lost else leftover)
            if leftover.path is not None:
                self._known_mark = leftover.saves[-1][1] if leftover.saves else leftover.mark
            self.safety.snapshot()
            self.saved_changed.emit()
            if found.lost:
                lost = counted(found.lost, "step")
                self.noticed.emit(
                    f"Of what came last, {lost} could not be done again ({found.problem}). They stay in {leftover.folder}"
                )

        self.start_job(lambda progress: recover(leftover, progress), recovered)

    def changed_elsewhere(self) -> bool:
        """Whether the file that the project is saved to holds something else than what was read from it or written to it."""
        return self.path is not None and is_there(self.path) and content_mark(self.path) != self._known_mark

    def end_work(self) -> None:
        """Stop what is under way, and wait until it is: a thread must not outlive the application."""
        self.held = True  # timers may still go off
        if self.job is not None:
            self.job.cancel()
            self.job.wait()

    def close(self) -> None:
        """End the session; nothing is left to recover."""
        self.safety.close()

    def _attach(
        self, history: History, base: pathlib.Path | None, path: pathlib.Path | None, leftover: Leftover | None = None
    ) -> None:
        self.history = history
        self.path = path
        self._known_mark = "" if path is None else content_mark(path)
        self.ground = 0
        self._ground_chosen = False
        self.body_ident = 0
        self.layer = FORM
        history.subscribe(self._tell)
        self.brushes.fit(self.body)
        self.safety.opened(base, leftover)
        unknown = self.outside.opened()
        self.replaced.emit()
        self.saved_changed.emit()
        if unknown:
            self.outside.asked.emit(unknown)

    def _tell(self, change: Change) -> None:
        self.ground = min(self.ground, len(self.project.grounds) - 1)
        body = self.body
        if body is None or all(layer.name != self.layer for layer in body.layers):
            self.layer = FORM
        if change.fields or change.bodies:
            self.outside.follow()
        if "bodies" in change.fields:
            self.brushes.fit(self.body)
        self.changed.emit(change)
        if not self.history.stroking:
            self.saved_changed.emit()
