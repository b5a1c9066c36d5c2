"""Pictures to files: asked for on the card, drawn by a process, or at once where they are small."""

import pathlib
from typing import TYPE_CHECKING, Any

from PIL import Image

from hulmo.app import files
from hulmo.app.cards.still_card import FLIGHT, HERE, TURN, StillCard
from hulmo.app.files_work import FilesWork
from hulmo.core.counted import counted
from hulmo.core.errors import HulmoError
from hulmo.core.io.png import write_png
from hulmo.core.setting import number
from hulmo.render.quick_picture import QUICK_SIZE, quick_picture

if TYPE_CHECKING:
    from hulmo.app.main_window import MainWindow


class StillWork(FilesWork):
    """What the card of stills asks for, done.

    Parameters
    ----------
    window : MainWindow
    """

    def __init__(self, window: "MainWindow") -> None:
        super().__init__(window, StillCard)
        window.cards.when_made(StillCard, lambda card: card.asked.connect(lambda: self._ask(self.draw)))
        window.cards.when_made(StillCard, lambda card: card.quick_asked.connect(lambda: self._ask(self.draw_quick)))

    @property
    def _card(self) -> StillCard:
        return self._window.card(StillCard)

    def draw(self, path: pathlib.Path) -> None:
        """Draw what the card says to a file, or to numbered ones of that name."""
        self.run("render", ["-o", str(path), *self._words()])

    def draw_quick(self, path: pathlib.Path) -> None:
        """Draw what is seen now, small."""
        canvas = self._window.canvas
        if canvas.picture is None:
            return
        canvas.sheet.make_current()
        pixels = quick_picture(canvas.picture.renderer, canvas.camera, canvas.look)
        try:
            write_png(path, Image.fromarray(pixels))
        except HulmoError as error:
            self._window.notice.say(str(error))
        else:
            self._card.tell(f"Wrote {path.name}, {QUICK_SIZE[0]} × {QUICK_SIZE[1]}, to {path.parent}")

    def _ask(self, then: Any) -> None:
        window = self._window
        start = window.projects.folder() / f"{window.projects.file_name()}.png"
        files.ask_save(window, "Draw to a picture", start, "png", then)

    def _words(self) -> list[str]:
        values, canvas = self._card.values, self._window.canvas
        width, height = (round(number(values, name)) for name in ("width", "height"))
        words = [
            "--size",
            f"{width}x{height}",
            "--samples",
            str(round(number(values, "samples"))),
            "--show",
            canvas.look,
        ]
        if values["channels"]:
            words.append("--channels")
        kind, name = self._card.wanted
        count = str(round(number(values, "count")))
        if kind in (HERE, TURN):
            camera = canvas.camera
            # with "=", since a number may begin with a minus
            words += [f"--eye={_told(camera.eye)}", f"--target={_told(camera.target)}", f"--field={camera.field!r}"]
        else:
            words += [f"--view={name}"] if name else []
        words += ["--turn", count] if kind == TURN else ["--flight", count] if kind == FLIGHT else []
        return words

    def outcome(self, written: list[str]) -> str:
        """See `FilesWork.outcome`."""
        if not written:
            return ""
        first = pathlib.Path(written[0])
        more = f" and {counted(len(written) - 1, 'more file')}" if len(written) > 1 else ""
        return f"Wrote {first.name}{more} to {first.parent}"


def _told(place: Any) -> str:
    return ",".join(repr(float(value)) for value in place)
