"""Makes the pictures of the window in docs/screenshots from the demos: xvfb-run -a -s "-screen 0 1400x900x24" python
tools/make_screenshots.py [NAME ...]."""

import pathlib
import sys
import tempfile
import time
from collections.abc import Callable

from PyQt6.QtCore import QCoreApplication, QEvent, QPointF, QSettings, Qt
from PyQt6.QtGui import QMouseEvent

from hulmo.app import theme
from hulmo.app.cards.care_card import CareCard
from hulmo.app.cards.deliver_card import DeliverCard
from hulmo.app.cards.relief_card import ReliefCard
from hulmo.app.cards.uv_card import UvCard
from hulmo.app.main_window import MainWindow
from hulmo.app.session import Session
from hulmo.app.stages import tool_named
from hulmo.app.start import SIZE, prepare_application
from hulmo.core.commands import ChooseParts, SetLight, UnwrapUv
from hulmo.core.progress import silent
from hulmo.core.recipe import read_recipe, run_recipe
from hulmo.demo import demo_file

FOLDER = pathlib.Path(__file__).parents[1] / "docs" / "screenshots"


class Studio:
    """A window on a demo, and what is done in it before the picture is taken."""

    def __init__(self, demo: str) -> None:
        self.session = Session()
        recipe = FOLDER.parent / "recipes" / f"{demo}.json"
        if recipe.exists():
            run_recipe(self.session.history, read_recipe(recipe), str(recipe), silent())
        else:
            self.session.open_now(demo_file(demo), as_copy=True)
        self.window = MainWindow(self.session)
        self.window.resize(SIZE)
        self.window.show_project()
        self.window.show()
        self.canvas = self.window.canvas
        self.settle()

    def pump(self, until: Callable[[], bool], most: float = 120.0) -> None:
        """Let the window work until something holds."""
        end = time.monotonic() + most
        while not until() and time.monotonic() < end:
            QCoreApplication.processEvents()
            time.sleep(0.002)

    def settle(self) -> None:
        """Until nothing is under way."""
        begun = time.monotonic()
        self.pump(lambda: time.monotonic() - begun > 1.5)
        self.pump(lambda: not self.session.busy and self.canvas.resting)

    def take(self, kind: str, name: str) -> None:
        """Take a tool in hand."""
        self.session.choose_tool(tool_named(kind, name))
        self.settle()

    def point(self, x: float, y: float) -> None:
        """Put the pointer on the canvas, as shares of it."""
        at = QPointF(self.canvas.width() * x, self.canvas.height() * y)
        place = QPointF(self.canvas.mapToGlobal(at.toPoint()))
        no = Qt.MouseButton.NoButton
        event = QMouseEvent(QEvent.Type.MouseMove, at, place, no, no, Qt.KeyboardModifier.NoModifier)
        QCoreApplication.sendEvent(self.canvas, event)
        self.settle()

    def shoot(self, name: str) -> None:
        """Take the picture."""
        self.settle()
        self.window.grab().save(str(FOLDER / f"{name}.png"))
        print(name, flush=True)


def sculpt(studio: Studio) -> None:
    """A brush on the rock."""
    studio.take("brush", "ledge")
    studio.point(0.42, 0.5)


def block_out(studio: Studio) -> None:
    """A base form, and the triangles of the rock."""
    studio.take("form", "icosphere")
    studio.window.show_look("mesh")


def ground(studio: Studio) -> None:
    """Laying a ground."""
    studio.take("brush", "lay")
    studio.session.choose_ground(3)
    studio.point(0.5, 0.32)


def ground_rules(studio: Studio) -> None:
    """Rules of the rock."""
    studio.take("rules", "rules")


def mesh_care(studio: Studio) -> None:
    """What is wrong with the mesh."""
    studio.take("care", "care")
    studio.window.card(CareCard).look.click()


def bake(studio: Studio) -> None:
    """Charts beside the scene, and what is baked by them."""
    body = max(studio.session.project.bodies, key=lambda body: body.corners.live_count)
    studio.session.choose_body(body.ident)
    studio.session.do(UnwrapUv(body.name, size=1024))
    studio.take("bake", "bake")
    studio.window.views.show_uv("beside")
    studio.settle()
    studio.pump(lambda: studio.window.uv_view.sheet.plane is not None)
    face = int(studio.window.uv_view.sheet.plane.slots[300])
    studio.session.do(ChooseParts(body.name, "face", "chart", these=(face,)))
    studio.window.uv_view.tools["move"].click()
    studio.window.card(UvCard).measure()
    studio.pump(lambda: not studio.session.busy)


def inside(studio: Studio) -> None:
    """A section through the rock."""
    studio.take("bore", "bore")
    studio.window.heading.inside.setChecked(True)


def deliver(studio: Studio) -> None:
    """A delivery by profile: what would go wrong."""
    studio.take("deliver", "deliver")
    card = studio.window.card(DeliverCard)
    card.check()
    studio.pump(lambda: not studio.session.busy and bool(card.told.text()))


def water(studio: Studio) -> None:
    """The sea."""
    studio.take("water", "level_water")
    look_from(studio, "From the boat")


def strew(studio: Studio) -> None:
    """The tray, and the turf."""
    studio.take("strew", "strew")
    look_from(studio, "On the turf")
    studio.point(0.42, 0.62)


def hour(studio: Studio) -> None:
    """Evening, night theme."""
    studio.session.do(
        SetLight(
            latitude=57.9, longitude=-8.5, day="2026-06-02", hour=20.3, sun=3.4, haze=2.0, sight=900.0, fog_fall=12.0
        )
    )
    studio.take("light", "sun")
    look_from(studio, "From the air")
    studio.window.set_theme(theme.NIGHT)


def look_from(studio: Studio, name: str) -> None:
    """Go to a viewpoint."""
    entry = next(entry for entry in studio.session.project.objects if entry.name == name)
    studio.canvas.look_from(entry.ident)
    studio.settle()


def vesper(studio: Studio) -> None:
    """A moon."""
    studio.take("brush", "stamp")
    studio.point(0.45, 0.4)


def gill_gallery(studio: Studio) -> None:
    """A cave."""
    studio.take("brush", "roughen")
    studio.point(0.5, 0.5)


def by_hand(studio: Studio) -> None:
    """What faces up at the top, with grips."""
    body = studio.session.body
    assert body is not None
    low, high = body.bounds().low[1], body.bounds().high[1]
    top = float(low + 0.8 * (high - low)) + body.origin[1]
    studio.window.show_look("form")
    studio.take("hand", "move")
    studio.session.do(ChooseParts(body.name, "face", "height", low=top, high=1e4))


def weather(studio: Studio) -> None:
    """Rain over the rock, shown before it is kept."""
    studio.window.show_look("form")
    studio.take("relief", "weather")
    studio.window.card(ReliefCard).show_now.click()


def in_the_scene(studio: Studio) -> None:
    """Figures and viewpoints."""
    studio.take("objects", "objects")
    studio.pump(lambda: False, 12.0)  # until viewpoints have their small pictures


def _viewpoint(studio: Studio, name: str) -> int:
    return next(entry.ident for entry in studio.session.project.objects if entry.name == name)


def track(studio: Studio) -> None:
    """The foot track of the rock, and its card."""
    studio.canvas.look_from(_viewpoint(studio, "From the air"))
    studio.take("line", "track")
    studio.session.lines.choose(studio.session.lines.entries[0].ident)


def cobble_spires(studio: Studio) -> None:
    """The rocks that float, with what faces up chosen."""
    studio.canvas.look_from(_viewpoint(studio, "From below"))
    studio.take("handwork", "cap")


def neighbours(studio: Studio) -> None:
    """Four patches, and a brush that goes over all of them."""
    studio.session.choose_body(studio.session.project.bodies[0].ident)
    studio.take("brush", "ledge")
    studio.point(0.5, 0.52)


PICTURES: dict[str, tuple[str, Callable[[Studio], None]]] = {
    "sculpt": ("tern-skerry", sculpt),
    "block-out": ("tern-skerry", block_out),
    "ground": ("tern-skerry", ground),
    "ground-rules": ("tern-skerry", ground_rules),
    "mesh-care": ("tern-skerry", mesh_care),
    "bake": ("cobble-spires", bake),
    "inside": ("tern-skerry", inside),
    "deliver": ("tern-skerry", deliver),
    "vesper": ("vesper", vesper),
    "gill-gallery": ("gill-gallery", gill_gallery),
    "by-hand": ("tern-skerry", by_hand),
    "track": ("tern-skerry", track),
    "cobble-spires": ("cobble-spires", cobble_spires),
    "weather": ("tern-skerry", weather),
    "neighbours": ("four-patches", neighbours),
    "in-the-scene": ("tern-skerry", in_the_scene),
    "water": ("tern-skerry", water),
    "strew": ("tern-skerry", strew),
    "hour": ("tern-skerry", hour),
}


def main(names: list[str]) -> None:
    """Make all of them, or those named."""
    with tempfile.TemporaryDirectory() as home:
        QSettings.setPath(QSettings.Format.NativeFormat, QSettings.Scope.UserScope, home)
        _ = prepare_application(["hulmo"])
        for name in names or list(PICTURES):
            demo, act = PICTURES[name]
            studio = Studio(demo)
            act(studio)
            studio.shoot(name)
            studio.window._dropped = True
            studio.window.close()
            studio.window.deleteLater()
            QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


if __name__ == "__main__":
    main(sys.argv[1:])
