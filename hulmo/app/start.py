"""Starting the window."""

import os
import pathlib
import sys
import time
from collections.abc import Callable
from types import TracebackType

from PyQt6.QtCore import QCoreApplication, QSize, QTimer
from PyQt6.QtGui import QSurfaceFormat
from PyQt6.QtWidgets import QApplication

from hulmo.app import theme
from hulmo.app.main_window import MainWindow
from hulmo.app.session import Session
from hulmo.core.errors import HulmoError

SIZE = QSize(1280, 800)
"""Pixels of the window where the screen has room for it."""

_KEPT: list[QApplication] = []
"""The application, until the process ends: released earlier it would take widgets with it that are being released."""

FRAME = QSize(8, 40)
"""Pixels that a title bar and a frame may take."""


def prepare_application(arguments: list[str]) -> QApplication:
    """The Qt application with fonts, name and OpenGL 3.3."""
    wanted = QSurfaceFormat()
    wanted.setVersion(3, 3)
    wanted.setProfile(QSurfaceFormat.OpenGLContextProfile.CoreProfile)
    wanted.setDepthBufferSize(24)
    wanted.setSwapInterval(0)
    QSurfaceFormat.setDefaultFormat(wanted)
    QCoreApplication.setOrganizationName("Hulmo")
    QCoreApplication.setApplicationName("hulmo")
    application = QApplication(arguments)
    _KEPT.append(application)
    application.setStyle("Fusion")
    application.setDesktopFileName("hulmo")
    theme.load_fonts()
    return application


def start(file: pathlib.Path | None, as_copy: bool = False) -> int:
    """Open the window on a project and run until it is closed.

    Raises
    ------
    HulmoError
        No display, or the file cannot be opened.
    """
    if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM")):
        raise HulmoError(
            "no display to open a window on; set DISPLAY, run it under Xvfb (xvfb-run -a hulmo), or use the commands "
            "that need none (hulmo --help)"
        )
    times = {"imports": _seconds()}
    application = prepare_application(sys.argv[:1])
    session = Session()
    if file is not None:
        session.open_now(file, as_copy)
    times["project"] = _seconds()
    window = MainWindow(session)
    sys.excepthook = _teller(session)
    application.aboutToQuit.connect(session.end_work)
    screen = application.primaryScreen()
    room = SIZE + FRAME if screen is None else screen.availableSize()
    window.resize(SIZE.boundedTo(room - FRAME))
    window.show_project()
    if os.environ.get("HULMO_EXIT_AFTER_FIRST_FRAME"):
        window.canvas.framed.connect(lambda: QTimer.singleShot(0, lambda: _report_and_leave(application, times)))
    window.show()
    times["window"] = _seconds()
    window.tell_leftovers()
    return application.exec()


def _teller(session: Session) -> Callable[[type[BaseException], BaseException, TracebackType | None], None]:
    # an error nobody expected must not take the window, and the work in it, down
    def tell(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            QApplication.quit()
            return
        text = session.safety.report(error.with_traceback(trace))
        if text:
            session.noticed.emit(text)

    return tell


def _report_and_leave(application: QApplication, times: dict[str, float]) -> None:
    # for `hulmo bench`
    times.setdefault("picture", _seconds())
    spans = (
        f"{name} {end - begin:.2f}" for (name, end), begin in zip(times.items(), (0.0, *times.values()), strict=False)
    )
    print(f"first frame after {times['picture']:.3f} s: {', '.join(spans)}", flush=True)
    application.quit()


def _seconds() -> float:
    # since the process began, by the system's own clock
    ticks = float(pathlib.Path("/proc/self/stat").read_text().rsplit(")", 1)[1].split()[19])
    return time.clock_gettime(time.CLOCK_BOOTTIME) - ticks / os.sysconf("SC_CLK_TCK")
