"""Work in a process of its own gives the same, leaves Python free, says what went wrong, and is stopped at once."""

import errno
import os
import pathlib
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from unittest import mock

import numpy as np

from hulmo.core import apart
from hulmo.core.apart import BrokenOff, done_apart
from hulmo.core.deliver.levels import levels_of
from hulmo.core.errors import Cancelled, InvalidInput
from hulmo.core.progress import Progress, silent
from hulmo.core.topology import simplify
from tests.bodies import form_body


def refuse(number: np.ndarray) -> dict[str, np.ndarray]:
    """A piece of work that can't be done."""
    raise InvalidInput(f"{int(number)} is too many")


def wait(number: np.ndarray) -> dict[str, np.ndarray]:
    """One that takes its time."""
    time.sleep(float(number))
    return {"number": number}


def break_off(number: np.ndarray) -> dict[str, np.ndarray]:
    """One that ends in the middle."""
    sys.exit(int(number))


class ApartTest(unittest.TestCase):
    def test_the_same_bits_and_python_is_free_meanwhile(self) -> None:
        body = form_body("icosphere", radius=10.0, edge=0.08)
        points, faces = body.vertices["position"], body.corners.live_triangles()
        gaps, there = [], [True]

        def watch() -> None:
            last = time.perf_counter()
            while there[0]:
                time.sleep(0.002)
                now = time.perf_counter()
                gaps.append(now - last)
                last = now

        thread = threading.Thread(target=watch)
        thread.start()
        begun = time.perf_counter()
        beside = simplify.simplified(points, faces, 60_000, 5, silent())
        took = time.perf_counter() - begun
        there[0] = False
        thread.join()
        self.assertGreater(faces.shape[0], simplify.AT_ONCE)
        self.assertLess(max(gaps), 0.5 * took)
        with mock.patch.object(simplify, "AT_ONCE", 10**9):
            at_once = simplify.simplified(points, faces, 60_000, 5, silent())
        for one, other in zip(beside, at_once, strict=True):
            self.assertEqual(one.dtype, other.dtype)
            np.testing.assert_array_equal(one, other)

    def test_what_goes_wrong_is_said(self) -> None:
        here = "tests.core.test_apart"
        with self.assertRaisesRegex(InvalidInput, "counting: 7 is too many"):
            done_apart(f"{here}:refuse", {"number": np.array(7)}, silent(), "counting")
        with self.assertRaisesRegex(BrokenOff, "counting failed"):
            done_apart(f"{here}:break_off", {"number": np.array(5)}, silent(), "counting")
        body = form_body("icosphere", radius=10.0, edge=1.5)
        with (
            mock.patch.object(simplify, "AT_ONCE", 10),
            mock.patch.object(apart.sys, "executable", "/bin/false"),
            self.assertRaises(BrokenOff),  # which is no level that cannot be
        ):
            levels_of(body, (0.5,), False, silent())
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch.object(simplify, "AT_ONCE", 10), mock.patch.object(apart.np, "savez", side_effect=full):
            self.assertEqual(len(levels_of(body, (0.5,), False, silent())), 2)

    def test_it_is_stopped_and_nothing_stays(self) -> None:
        progress, made = Progress(), []
        popen = subprocess.Popen

        def noted(*words: object, **more: object) -> object:
            made.append((popen(*words, **more), words[0][-1]))  # type: ignore[call-overload, index]
            return made[-1][0]

        threading.Timer(0.5, progress.stop).start()
        begun = time.perf_counter()
        with mock.patch.object(apart.subprocess, "Popen", noted), self.assertRaises(Cancelled):
            done_apart("tests.core.test_apart:wait", {"number": np.array(60.0)}, progress, "waiting")
        self.assertLess(time.perf_counter() - begun, 30.0)
        process, folder = made[0]
        self.assertIsNotNone(process.returncode)
        self.assertFalse(pathlib.Path(folder).exists())

    def test_whoever_waits_is_killed(self) -> None:
        text = (
            "import numpy as np; from hulmo.core.apart import done_apart; from hulmo.core.progress import silent; "
            "done_apart('tests.core.test_apart:wait', {'number': np.array(6.0)}, silent(), 'waiting')"
        )
        with tempfile.TemporaryDirectory() as name:
            room = pathlib.Path(name)
            waiting = subprocess.Popen([sys.executable, "-c", text], env={**os.environ, "TMPDIR": name}, cwd=apart.ROOT)
            end = time.monotonic() + 60.0
            seen = False
            while not (seen and not list(room.glob("*/given.npz"))) and time.monotonic() < end:  # written, and read
                seen = seen or bool(list(room.glob("*/given.npz")))
                time.sleep(0.02)
            waiting.kill()
            waiting.wait()
            while list(room.iterdir()) and time.monotonic() < end:
                time.sleep(0.1)
            self.assertEqual(list(room.iterdir()), [])


if __name__ == "__main__":
    unittest.main()
