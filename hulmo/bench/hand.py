"""From the hand to the picture: how long a stroke's events wait until what they did is on the screen."""

import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from typing import Any

EVENTS = 300
EVERY = 16
"""Milliseconds between two events: a hand at 60 a second."""


def bench_hand(say: Callable[[str], None]) -> dict[str, Any]:
    """Milliseconds from event to picture over a stroke of 300 events in the real window, and over a drag of the view, on the
    demo and on a body of two million triangles.

    Beside it stands the peer of the same run: what the whole picture takes to draw.
    """
    return {"demo": _bench(say, "Tern Skerry", []), "large": _bench(say, "2 M triangles", ["large"])}


def _bench(say: Callable[[str], None], what: str, arguments: list[str]) -> dict[str, Any]:
    command = [sys.executable, "-m", "hulmo.bench.hand", *arguments]
    if not os.environ.get("DISPLAY"):
        if shutil.which("xvfb-run") is None:
            say("hand to picture: not measured, there is no display and no xvfb-run")
            return {"skipped": "no display"}
        command = ["xvfb-run", "-a", "-s", "-screen 0 1400x900x24", *command]
    with tempfile.TemporaryDirectory() as home:
        environment = {**os.environ, "XDG_CONFIG_HOME": home, "XDG_DATA_HOME": home}
        done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
    if done.returncode != 0:
        say(f"hand to picture: failed ({done.stderr.strip()[-200:]})")
        return {"failed": done.stderr.strip()[-200:]}
    result: dict[str, Any] = json.loads(done.stdout.splitlines()[-1])
    say(
        f"hand to picture, {what}, {result['events']} events: p50 {result['delay_ms']['p50']:.0f} ms, "
        f"p95 {result['delay_ms']['p95']:.0f} ms; the whole picture takes {result['picture_ms']:.0f} ms; the last event "
        f"waited {result['last_ms']:.0f} ms; {result['frames']} pictures; while the view is turned: "
        f"p50 {result['turning_ms']['p50']:.0f} ms, p95 {result['turning_ms']['p95']:.0f} ms"
    )
    return result


def _measure(large: bool = False) -> dict[str, Any]:
    import numpy as np
    from PyQt6.QtCore import QCoreApplication, QEvent, QPointF, Qt
    from PyQt6.QtGui import QMouseEvent

    from hulmo.app.main_window import MainWindow
    from hulmo.app.session import Session
    from hulmo.app.start import prepare_application
    from hulmo.core.commands import AddBody, LayRelief
    from hulmo.demo import demo_file

    application = prepare_application(["hulmo"])
    session = Session()
    if large:
        session.do(AddBody("icosphere", {"radius": 30.0, "edge": 0.1}))
        session.do(LayRelief("Icosphere", "noise", {"size": 9.0, "height": 2.0}))
    else:
        session.open_now(demo_file("tern-skerry"), as_copy=True)
    window = MainWindow(session)
    window.resize(1280, 800)
    window.show_project()
    window.show()
    canvas = window.canvas

    def pump(until: Callable[[], bool], most: float = 60.0) -> None:
        end = time.perf_counter() + most
        while not until() and time.perf_counter() < end:
            application.processEvents()
            time.sleep(0.001)

    pump(lambda: False, 3.0)
    pump(lambda: canvas.resting)
    waiting: list[float] = []
    delays: list[float] = []
    frames: list[float] = []

    def framed() -> None:
        now = time.perf_counter()
        frames.append(now)
        delays.extend(now - sent for sent in waiting)
        waiting.clear()

    canvas.framed.connect(framed)

    def send(kind: QEvent.Type, i: int, by: Qt.MouseButton) -> None:
        share = i / EVENTS
        at = QPointF(canvas.width() * (0.25 + 0.5 * share), canvas.height() * (0.45 + 0.12 * float(np.sin(share * 12))))
        held = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseButtonRelease else by
        button = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseMove else by
        place = QPointF(canvas.mapToGlobal(at.toPoint()))
        waiting.append(time.perf_counter())
        event = QMouseEvent(kind, at, place, button, held, Qt.KeyboardModifier.NoModifier)
        QCoreApplication.postEvent(canvas, event)

    def drag(by: Qt.MouseButton) -> tuple[dict[str, float], float, int]:
        # delays of the events of a drag across the canvas, of the last one, and pictures that were shown
        delays.clear()
        frames.clear()
        begun = time.perf_counter()
        send(QEvent.Type.MouseButtonPress, 0, by)
        for i in range(1, EVENTS - 1):
            due = begun + i * EVERY / 1000
            pump(lambda due=due: time.perf_counter() >= due)  # type: ignore[misc]
            send(QEvent.Type.MouseMove, i, by)
        send(QEvent.Type.MouseButtonRelease, EVENTS - 1, by)
        last = time.perf_counter()
        pump(lambda: not waiting)
        p50, p95 = (round(1000 * float(value), 1) for value in np.percentile(delays, (50, 95)))
        waited, shown = frames[-1] - last, len(frames)
        pump(lambda: canvas.resting)
        return {"p50": p50, "p95": p95}, round(1000 * waited, 1), shown

    stroke, waited, shown = drag(Qt.MouseButton.LeftButton)
    assert canvas.picture is not None
    cost = canvas.picture.full_cost
    turning, _, turns = drag(Qt.MouseButton.RightButton)
    return {
        "events": EVENTS,
        "triangles": sum(body.corners.live_count for body in session.project.bodies),
        "delay_ms": stroke,
        "last_ms": waited,
        "picture_ms": round(1000 * cost, 1),
        "frames": shown,
        "turning_ms": turning,
        "turning_frames": turns,
    }


if __name__ == "__main__":
    print(json.dumps(_measure("large" in sys.argv)), flush=True)
    os._exit(0)  # Qt is left as it is; nothing is to be saved
