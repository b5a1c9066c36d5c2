"""The window: puts heading, route, canvas, cards and reading together and wires them to the session."""

import pathlib
import time

from PyQt6.QtCore import QSettings, QSize, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QIcon, QResizeEvent
from PyQt6.QtWidgets import (
    QAbstractButton,
    QApplication,
    QHBoxLayout,
    QMainWindow,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from hulmo.app import files, theme
from hulmo.app.bake_work import BakeWork
from hulmo.app.button_keys import ButtonKeys
from hulmo.app.canvas import Canvas
from hulmo.app.card_column import CardColumn, OneCard
from hulmo.app.cards.brush_card import BrushCard
from hulmo.app.cards.care_card import CareCard
from hulmo.app.cards.density_card import DensityCard
from hulmo.app.cards.export_card import ExportCard
from hulmo.app.cards.fill_card import FillCard
from hulmo.app.cards.ground_card import GroundCard
from hulmo.app.cards.inside_card import InsideCard
from hulmo.app.cards.layer_card import LayerCard
from hulmo.app.cards.light_card import LightCard
from hulmo.app.cards.look_card import LookCard
from hulmo.app.cards.object_card import ObjectCard
from hulmo.app.cards.operation_card import OperationCard
from hulmo.app.cards.prop_care_card import PropCareCard
from hulmo.app.cards.relief_card import ReliefCard
from hulmo.app.cards.sky_card import SkyCard
from hulmo.app.cards.tray_card import TrayCard
from hulmo.app.cards.uv_card import UvCard
from hulmo.app.cards.walk_card import WalkCard
from hulmo.app.deliver_work import DeliverWork
from hulmo.app.finder import Finder
from hulmo.app.heading import Heading
from hulmo.app.held_keys import HeldKeys
from hulmo.app.main_button import main_button
from hulmo.app.notice import Notice
from hulmo.app.paint_work import PaintWork
from hulmo.app.pen import PracticePen, pen_strokes
from hulmo.app.project_work import ProjectWork
from hulmo.app.reading import Reading
from hulmo.app.route import Route
from hulmo.app.scene_and_uv import SceneAndUv
from hulmo.app.session import WAIT, Session
from hulmo.app.spoken import name_buttons
from hulmo.app.stages import STAGES, Tool, tool_named
from hulmo.app.still_work import StillWork
from hulmo.app.tab_order import reading_order
from hulmo.app.tools.fill import FillTool
from hulmo.app.tools.once import PickTool
from hulmo.app.uv_view import UvView
from hulmo.app.view_pictures import ViewPictures
from hulmo.app.window_keys import declare_keys, findable
from hulmo.core.care.coarse_border import refined_count
from hulmo.core.commands import AddGround, Cure, PlaceFigure, SetSky
from hulmo.core.commands.objects import view_here
from hulmo.core.counted import counted
from hulmo.core.journal import Leftover
from hulmo.core.kernel import begin_to_load, load_next, numba_loaded

MANY_MORE = 100_000
"""Triangles that refining may add unasked."""

STROKES = ("hulmo.core.sculpt", "hulmo.core.mesh", "hulmo.core.ground.brushes", "hulmo.render")
"""Rooms with kernels that strokes call."""

AT_ONCE = 0.02
"""Seconds that making ready what is needed later takes at a time."""

UNDER_WAY = "Something is still under way. Wait until it is done, or stop it."

SMALLEST = QSize(860, 480)
"""Pixels: fits half the side of a screen of 1920 x 1080, as one of twice the usual size has it."""


class MainWindow(QMainWindow):
    """The one window of the application."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.theme = theme.NIGHT if QSettings().value("theme", "day") == "night" else theme.DAY
        self._dropped = False
        self._stopping = False
        self.setWindowTitle("Hulmo")
        self.setWindowIcon(QIcon(str(theme.ASSETS / "icons" / "hulmo.svg")))
        self.setMinimumSize(SMALLEST)
        session.job_changed.connect(self._keep_keys)
        self.heading = Heading(session, self.theme)
        self.route = Route(session, self.theme)
        self.canvas = Canvas(session, self.theme)
        self.uv_view = UvView(session)
        self.held_keys = HeldKeys(self.canvas.hand, self)
        self.button_keys = ButtonKeys(self)
        self.pen = PracticePen(self.canvas, self)
        self.reading = Reading(session)
        self.cards = CardColumn(session, self.theme)
        self.setCentralWidget(self._lay_out())
        self.finder = Finder(findable(self), self.theme, self)
        session.tool_changed.connect(lambda: self.finder.note(session.tool.ident))
        self.route.finder.clicked.connect(self.finder.open)
        self.notice = Notice(self.canvas)
        self.projects = ProjectWork(self)
        self.still = StillWork(self)
        self.baking = BakeWork(self)
        self.painting = PaintWork(self)
        self.delivering = DeliverWork(self)
        session.job_changed.connect(self._job_changed)
        self._wire()
        self._naming = QTimer(self)  # afterwards: cards that are made later are told of another tool later
        self._naming.setSingleShot(True)
        self._naming.setInterval(0)
        self._naming.timeout.connect(lambda: name_buttons(self))
        session.tool_changed.connect(self._naming.start)
        name_buttons(self)
        declare_keys(self)
        self._show_title()
        self._show_theme()
        self._loading = QTimer(self)
        self._loading.setInterval(10)
        self._loading.timeout.connect(self._make_ready)
        self._loading.start()

    def card(self, kind: type[OneCard]) -> OneCard:
        """The card of a class."""
        return self.cards.card(kind)

    def show_project(self) -> None:
        """Show the project the session began with."""
        self._first_stage()
        self.canvas.show_project()

    def tell_leftovers(self) -> None:
        """Offer to bring back work that an earlier crash left."""
        found = self.session.safety.leftovers()
        if found:
            self._offer(found[-1])

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Ask before unsaved work is dropped, and before long work is stopped."""
        assert event is not None
        dropped, self._dropped = self._dropped, False
        if self.session.busy:
            event.ignore()
            self.notice.say(
                UNDER_WAY,
                [("Stop and close", self._stop_and_close)],
            )
        elif self.session.unsaved and not dropped:
            event.ignore()
            self.projects.before_leaving(self._close_now)
        else:
            self.still.process.stop()
            self.baking.process.stop()
            self.delivering.process.stop()
            self.session.close()
            self.canvas.release()
            self.uv_view.sheet.release()
            event.accept()

    def focusNextPrevChild(self, forward: bool) -> bool:
        """Tab goes on in the order of reading, whenever the widgets were made."""
        order = reading_order((self.heading, self.route, self.canvas, self.cards, self.reading))
        here = self.focusWidget()
        if not order:
            return False
        # what has just gone or is no stop: begin anew
        place = order.index(here) + (1 if forward else -1) if here in order else 0
        stop = order[place % len(order)]
        stop.setFocus(Qt.FocusReason.TabFocusReason if forward else Qt.FocusReason.BacktabFocusReason)
        for area in self.findChildren(QScrollArea):
            if area.isAncestorOf(stop):
                area.ensureWidgetVisible(stop)
        return True

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """Keep the notice where it belongs."""
        super().resizeEvent(event)
        self.notice.place()

    def _lay_out(self) -> QWidget:
        middle = QHBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(self.route)
        self.views = SceneAndUv(self.canvas, self.uv_view, self)
        middle.addWidget(self.views, 1)
        middle.addWidget(self.cards)
        panel = QWidget()
        panel.setObjectName("panel")
        whole = QVBoxLayout(panel)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.heading)
        whole.addLayout(middle, 1)
        whole.addWidget(self.reading)
        return panel

    def _wire(self) -> None:
        canvas, heading, session = self.canvas, self.heading, self.session
        canvas.hand.pointed.connect(self.reading.point)
        canvas.hand.section.section_moved.connect(lambda values: self.card(InsideCard).set_values(values))
        canvas.hand.tool_of(FillTool).filled.connect(lambda hit: self.card(FillCard).fill(hit))
        heading.look_chosen.connect(self.show_look)
        heading.inside_turned.connect(lambda on: self.card(InsideCard).turn(on))
        heading.figure_turned.connect(self._turn_figure)
        heading.asked.connect(self.asked)
        heading.recent_chosen.connect(
            lambda name: self.projects.before_leaving(lambda: self.projects.open(pathlib.Path(name)))
        )
        self.route.action_taken = self._act
        self._wire_cards()
        self.views.image_asked.connect(lambda: files.ask_texture(self, self.projects.folder(), self.views.show_image))
        session.noticed.connect(self.notice.say)
        for done in (session.tool_changed, session.saved_changed, session.job_changed):
            done.connect(self._notice_over)
        session.saved_changed.connect(self._show_title)
        session.replaced.connect(self.notice.forget)
        session.replaced.connect(self._first_stage)
        session.outside.asked.connect(self._ask_follow)

    def _wire_cards(self) -> None:
        canvas, made = self.canvas, self.cards.when_made
        made(InsideCard, lambda card: card.changed.connect(canvas.set_inside))
        made(CareCard, lambda card: card.marked.connect(canvas.mark))
        made(CareCard, lambda card: card.led.connect(canvas.go_to))
        made(PropCareCard, lambda card: card.marked.connect(canvas.mark))
        made(UvCard, lambda card: card.marked.connect(canvas.mark))
        made(DensityCard, lambda card: card.marked.connect(canvas.mark))
        made(DensityCard, lambda card: card.figured.connect(canvas.show_figures))
        made(DensityCard, lambda card: card.look_asked.connect(self.show_look))
        made(TrayCard, lambda card: card.asked.connect(lambda: files.ask_prop(self, self.projects.folder(), card.put)))
        made(LightCard, lambda card: card.metered.connect(lambda: card.set_exposure(canvas.mean_exposure())))
        made(SkyCard, lambda card: card.asked.connect(self._ask_sky))
        made(LookCard, lambda card: card.changed.connect(canvas.set_look_value))
        made(LookCard, lambda card: card.cure_asked.connect(self._refine_borders))
        made(LayerCard, lambda card: card.change_asked.connect(lambda name: self.card(ReliefCard).change(name)))
        made(BrushCard, lambda card: card.practised.connect(self._practise))
        made(GroundCard, lambda card: card.folder_asked.connect(self._ask_folder))
        made(GroundCard, lambda card: card.image_asked.connect(self._ask_ground_image))
        made(ExportCard, lambda card: card.asked.connect(self.projects.ask_export))
        made(ObjectCard, lambda card: card.show_pictures(ViewPictures(self.session, canvas)))
        made(ObjectCard, lambda card: card.asked.connect(self._add_object))
        made(ObjectCard, lambda card: card.went.connect(canvas.look_from))
        made(WalkCard, lambda card: card.kept.connect(lambda: self._add_object("here")))
        made(OperationCard, lambda card: card.view_asked.connect(lambda: card.take_view(canvas.camera.toward_eye)))

    def _notice_over(self) -> None:
        if not self.session.busy:
            self.notice.expire()

    def press_main(self) -> None:
        """Do what the uppermost card that can is about."""
        button = main_button(self.cards)
        if button is not None:
            button.setFocus()  # a number that is being typed counts
            button.click()

    def give_up(self) -> None:
        """End what waits for a press on the canvas."""
        if self.session.once:
            self.session.do_once("")
            self.notice.expire(now=True)

    def show_look(self, name: str) -> None:
        """Show the scene another way."""
        self.heading.show_look(name)
        self.canvas.set_look(name)
        self.card(LookCard).show_look(name)

    def set_theme(self, chosen: theme.Theme) -> None:
        """Day or night."""
        self.theme = chosen
        QSettings().setValue("theme", chosen.name)
        self._show_theme()

    def _refine_borders(self, limit: float) -> None:
        body = self.session.body
        if body is None or self.session.busy:
            return
        have = body.corners.live_count

        def refine() -> None:
            self.session.do_long(Cure(body.name, "border", limit))

        def known(more: int) -> None:
            if more > max(MANY_MORE, have // 2):
                files.ask_many(self, f"{counted(have, 'triangle')} become about {have + more:,}.", refine)
            else:
                refine()

        self.session.start_job(lambda progress: refined_count(body, limit, progress), known)

    def _turn_figure(self, on: bool) -> None:
        if on:
            self.session.do_once("figure")
            self.notice.say("Press on the ground where a person of 1.8 m is to stand. Escape leaves it.")
        elif self.session.project.figure is not None:
            self.session.do(PlaceFigure())
        else:
            self.session.do_once("")

    def _add_object(self, what: str) -> None:
        if what == "figure":
            self.session.do_once("another figure")
            self.notice.say("Press on the ground where a person of 1.8 m is to stand. Escape leaves it.")
            return
        if what == "lamp":
            self.session.do_once("lamp")
            self.notice.say("Press where a lamp is to hang. Escape leaves it.")
            return
        camera = self.canvas.camera
        if self.session.do(view_here(camera.eye, camera.target, camera.field)):
            self.session.choose_object(self.session.project.objects[-1].ident)

    def _practise(self, name: str) -> None:
        self.canvas.setFocus()
        self.pen.play(next(entry for entry in pen_strokes() if entry.name == name))

    def _keep_keys(self) -> None:
        # a button that goes off while work is under way would hand the keys to the next text field
        focus = self.focusWidget()
        if self.session.busy and isinstance(focus, QAbstractButton):
            self.canvas.setFocus()

    def _make_ready(self) -> None:
        # some at a time, so that nothing is waited for later: what strokes need at once, all else while the hand rests
        if self.session.held or self.session.history.stroking:
            return
        if not numba_loaded():
            begin_to_load()
            return
        end = time.perf_counter() + AT_ONCE
        while load_next(STROKES):
            if time.perf_counter() > end:
                return
        if self.canvas.resting and not (self.cards.make_next() or load_next()):
            self._loading.stop()

    def _show_theme(self) -> None:
        application = QApplication.instance()
        assert isinstance(application, QApplication)
        theme.apply(application, self.theme)
        self.heading.set_theme(self.theme)
        self.route.set_theme(self.theme)
        self.canvas.set_theme(self.theme)
        self.finder.set_theme(self.theme)
        self.cards.set_theme(self.theme)

    def _show_title(self) -> None:
        mark = "•  " if self.session.unsaved else ""
        name = self.session.project.name if self.session.path is None else self.session.path.name
        self.setWindowTitle(f"{mark}{name}  Hulmo")

    def _first_stage(self) -> None:
        stage = STAGES[1] if self.session.project.bodies else STAGES[0]
        self.session.choose_stage(stage)

    def asked(self, name: str) -> None:
        """Do what a button of the heading, or its key, asks for."""
        if name == "frame":
            self.canvas.frame_all()
        elif name == "night":
            self.set_theme(theme.DAY if self.theme is theme.NIGHT else theme.NIGHT)
        elif self.session.busy and not (name.startswith("save") and self.session.preview.pending):
            self.session.noticed.emit(WAIT)
        elif name == "new":
            self.projects.before_leaving(self.session.new)
        elif name == "open":
            self.projects.before_leaving(self.projects.ask_open)
        elif name == "save":
            self.projects.save(None)
        elif name == "save_as":
            self.projects.save_as(None)

    def _act(self, tool: Tool) -> None:
        if tool is tool_named("action", "import"):
            if self.session.busy:
                self.session.noticed.emit(WAIT)
            else:
                files.ask_mesh(self, self.projects.folder(), self.projects.import_mesh)
        if tool is tool_named("action", "uv_view"):
            self.views.turn_uv()
        if tool is tool_named("action", "pick"):
            self.canvas.hand.tool_of(PickTool).now()
            if self.session.once == "pick":
                self.notice.say("Press on the ground that is to be taken in hand. Escape leaves it.")

    def _ask_sky(self) -> None:
        files.ask_sky(self, self.projects.folder(), lambda path: self.session.do_long(SetSky(str(path))))

    def _ask_ground_image(self) -> None:
        files.ask_texture(self, self.projects.folder(), self._add_ground)

    def _ask_folder(self) -> None:
        files.ask_folder(self, self.projects.folder(), self._add_ground)

    def _add_ground(self, path: pathlib.Path) -> None:
        if self.session.do(AddGround(str(path))):
            self.session.choose_ground(len(self.session.project.grounds) - 1)

    def _close_now(self) -> None:
        self._dropped = True  # for this once: whatever is done from now on is asked about again
        self.close()

    def _stop_and_close(self) -> None:
        if self.session.job is None:
            self.close()
            return
        self._stopping = True
        self.session.job.cancel()

    def _job_changed(self) -> None:
        if self.session.busy:
            return
        self.notice.withdraw(UNDER_WAY)
        if self._stopping:
            self._stopping = False
            QTimer.singleShot(0, self.close)

    def _ask_follow(self, names: list[str]) -> None:
        many = f"{len(names)} image files" if len(names) > 1 else "an image file"
        self.notice.say(
            f"This project names {many} outside it: {names[0]}{' and others' if len(names) > 1 else ''}. It is complete "
            "without them. Follow them, so that it is brought up to date when they change?",
            [("Follow", lambda: self.session.outside.agree(names))],
        )

    def _offer(self, leftover: Leftover) -> None:
        what = "a project that was never saved" if leftover.path is None else leftover.path.name
        steps = f"{counted(leftover.steps, 'step')} that {'is' if leftover.steps == 1 else 'are'} in no file"
        self.notice.say(
            f"Hulmo did not end well last time. {what[:1].upper()}{what[1:]} has {steps}.",
            [
                ("Bring back", lambda: self.session.recover(leftover)),
                ("Drop them", leftover.discard),
            ],
        )
