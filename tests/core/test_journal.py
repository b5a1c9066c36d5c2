"""The journal: every finished step is there, whenever and however the process ends."""

import errno
import json
import os
import pathlib
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from unittest import mock

import numpy as np

from hulmo.core.commands import AddBody, AddGround, PlaceBody, SetBlend, SetName
from hulmo.core.errors import FileProblem
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.journal import Journal, leftovers, recover
from hulmo.core.journal.log import LOG, line_of, read_log
from hulmo.core.project import Project
from tests.bodies import crash, project_with, snapshot, stroke

WORKER = """
import pathlib, sys
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.journal import Journal
from tests.core.test_journal import one_step
folder = pathlib.Path(sys.argv[1])
history = History(open_project(folder / "a.hulmo"))
journal = Journal(folder / "state")
journal.restart(folder / "a.hulmo", folder / "a.hulmo")
history.record(journal.note)
for step in range(10_000):
    one_step(history, step)
    print(step, flush=True)
    if step % 11 == 10:
        save_project(history.project, folder / "a.hulmo")
        journal.saved(folder / "a.hulmo")
    if step % 13 == 12:
        journal.snapshot(history.project)
    journal.poll()
"""


def one_step(history: History, step: int) -> None:
    """What the worker does in a step."""
    if step % 7 == 6:
        history.undo()
    elif step % 5 == 4:
        history.do(SetBlend("linear", 0.1 + step % 9 / 10))
    else:
        history.do(stroke("raise", (step % 9 - 4.0, 0.0, 1.0), radius=1.0, height=0.01))


def replayed(steps: int) -> Project:
    """The project that the worker had after so many steps."""
    history = project_with("sheet")
    for step in range(steps):
        one_step(history, step)
    return history.project


class JournalTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = pathlib.Path(folder.name)
        self.state, self.base = self.folder / "state", self.folder / "base.hulmo"
        self.told: list[str] = []
        self.journal = Journal(self.state, self.told.append)
        self.addCleanup(self.journal.close)

    def begin(self) -> History:
        history = project_with(radius=5.0, edge=0.4)
        save_project(history.project, self.base)
        history.mark_saved()
        self.journal.restart(self.base, self.base)
        history.record(self.journal.note)
        return history

    def test_it_brings_back_the_same_bytes(self) -> None:
        history = self.begin()
        history.do(stroke("raise", (6.0, 0, 0), (6.0, 1, 0), radius=2.0))
        history.do(SetName("Cay\u2028\u2029\x85 1"))  # what other readers of lines take for their ends
        history.do(stroke("smooth", (0.0, 6, 0), radius=2.0))
        history.undo()
        history.do(stroke("lay", (6.0, 0, 0), ground="Thrift turf", radius=2.0))
        self.assertEqual(leftovers(self.state), [], "a running session's journal is its own")
        dead = crash(self.journal)
        with (dead / LOG).open("ab") as log:
            log.write(line_of('{"do":"set_name","name":"Käy"}'.encode())[:-9])  # cut inside of a letter
        found = leftovers(self.state)
        self.assertEqual([(entry.steps, entry.path) for entry in found], [(5, self.base)])
        again = recover(found[0])
        self.assertEqual((again.lost, again.history.project.name), (0, "Cay\u2028\u2029\x85 1"))
        self.assertEqual(snapshot(again.history.project.bodies[0]), snapshot(history.project.bodies[0]))
        self.assertTrue(again.history.changed)

    def test_undoing_past_a_save_needs_no_rest(self) -> None:
        history = self.begin()
        for x in range(4):
            history.do(stroke("raise", (6.0, x, 0), radius=2.0))
        save_project(history.project, self.base)
        self.journal.saved(self.base)
        states = []
        for number in range(8):
            history.undo() if number < 3 else history.do(stroke("raise", (0.0, 6, number), radius=2.0))
            states.append(snapshot(history.project.bodies[0]))
            crash(self.journal)
        for entry, expected in zip(leftovers(self.state), states, strict=True):
            self.assertEqual(snapshot(recover(entry).history.project.bodies[0]), expected)

    def test_a_touched_file_is_no_other_file_and_another_one_is(self) -> None:
        history = self.begin()
        history.do(stroke("raise", (6.0, 0, 0), radius=2.0))
        dead = crash(self.journal)
        (dead / "base.hulmo").unlink()  # as on another disk, where no link can be made
        os.utime(self.base, (1, 1))
        self.assertEqual(recover(leftovers(self.state)[0]).lost, 0)
        save_project(Project(), self.base)
        with self.assertRaisesRegex(FileProblem, "holds something else"):
            recover(leftovers(self.state)[0])
        self.assertTrue(leftovers(self.state), "what cannot be brought back stays")

    def test_a_snapshot_holds_what_read_files_that_are_gone(self) -> None:
        history = self.begin()
        (self.folder / "moss").mkdir()
        (self.folder / "moss" / "albedo.jpg").write_bytes(
            (pathlib.Path(__file__).parents[2] / "hulmo/assets/grounds/basalt/albedo.jpg").read_bytes()
        )
        history.do(AddGround(str(self.folder / "moss")))
        self.assertTrue(self.journal.due)
        self.journal.snapshot(history.project)
        self.assertTrue(self.journal.writing)
        history.do(stroke("raise", (6.0, 0, 0), radius=2.0))  # the picture taken does not move
        self.journal.wait()
        (self.folder / "moss" / "albedo.jpg").unlink()
        crash(self.journal)
        again = recover(leftovers(self.state)[0])
        self.assertEqual(snapshot(again.history.project.bodies[0]), snapshot(history.project.bodies[0]))
        self.assertEqual(again.history.project.ground_names[-1], "moss")

    def test_work_goes_on_in_the_journal_that_was_brought_back(self) -> None:
        history = self.begin()
        history.do(stroke("raise", (6.0, 0, 0), radius=2.0))
        history.do(PlaceBody("Body", move=(1.0, 0.0, 0.0)))
        dead = crash(self.journal)
        with (dead / LOG).open("ab") as log:
            log.write(b"0000")
        leftover = leftovers(self.state)[0]
        again = recover(leftover).history
        other = Journal(self.state)
        other.restart(None, None)
        self.assertTrue(other.take_over(leftover))
        again.record(other.note)
        self.assertEqual(leftovers(self.state), [], "taken over, it is no leftover")
        again.undo()
        again.do(stroke("smooth", (6.0, 0, 0), radius=2.0))
        crash(other)
        found = leftovers(self.state)
        self.assertEqual(len(found), 1)
        self.assertEqual(snapshot(recover(found[0]).history.project.bodies[0]), snapshot(again.project.bodies[0]))
        other.close()

    def test_a_full_disk_is_told_and_nothing_is_left_out_of_the_middle(self) -> None:
        history = self.begin()
        history.do(SetName("One"))
        real = os.pwrite

        def full(handle: int, data: bytes, at: int) -> int:
            real(handle, data[:5], at)
            raise OSError(errno.ENOSPC, "No space left on device")

        with mock.patch("hulmo.core.journal.log.os.pwrite", full):
            history.do(SetName("Two"))
            history.do(stroke("raise", (6.0, 0, 0), radius=2.0))
        self.assertEqual(len(self.told), 1)
        self.assertRegex(self.told[0], "can't be kept safe .*No space left")
        crash(self.journal)
        self.assertEqual(recover(leftovers(self.state)[0]).history.project.name, "One")
        history.do(SetBlend("linear"))
        self.assertRegex(self.told[-1], "kept safe against a crash again")
        crash(self.journal)
        again = recover(leftovers(self.state)[-1]).history.project
        self.assertEqual((again.name, again.blend.mode), ("Two", "linear"))
        self.assertEqual(snapshot(again.bodies[0]), snapshot(history.project.bodies[0]))

    def test_what_holds_nothing_new_is_cleaned_away_and_what_cannot_be_read_stays(self) -> None:
        self.begin()
        crash(self.journal)
        strange = self.state / "strange"
        strange.mkdir()
        (strange / LOG).write_bytes(b"not a journal\n")
        self.assertEqual(leftovers(self.state), [])
        self.assertEqual([place.name for place in self.state.iterdir() if place != self.journal.place], ["strange"])
        with self.subTest("steps that cannot be done again are told, those before them come back"):
            history = self.begin()
            history.do(SetName("Cay"))
            dead = crash(self.journal)
            with (dead / LOG).open("ab") as log:
                for command in ({"do": "fill", "body": "None", "ground": "x"}, {"do": "set_name", "name": "Never"}):
                    log.write(line_of(json.dumps(command).encode()))
            again = recover(leftovers(self.state)[0])
            self.assertEqual((again.lost, again.history.project.name), (2, "Cay"))
            self.assertIn("no body 'None'", again.problem)

    def test_any_byte_of_the_log_may_be_damaged(self) -> None:
        history = self.begin()
        history.do(AddBody("sheet", {"edge": 3.0}))
        history.do(SetName("Cay"))
        dead = crash(self.journal)
        whole = (dead / LOG).read_bytes()
        rng = np.random.default_rng()
        for _ in range(150):
            broken = bytearray(whole)
            at = int(rng.integers(len(whole)))
            broken[at] ^= 1 << int(rng.integers(8))
            (dead / LOG).write_bytes(broken[: int(rng.integers(at, len(whole)) + 1)])
            texts, size = read_log(dead / LOG)
            self.assertEqual(b"".join(line_of(text) for text in texts)[:size], whole[:size])
            for leftover in leftovers(self.state):
                recover(leftover)
            if not dead.exists():  # nothing new in it
                dead.mkdir()

    def test_kills_at_random_moments_lose_no_finished_step(self) -> None:
        rng = np.random.default_rng()
        save_project(project_with("sheet").project, self.folder / "a.hulmo")
        first = (self.folder / "a.hulmo").read_bytes()
        for _ in range(int(os.environ.get("HULMO_KILLS", "4"))):
            (self.folder / "a.hulmo").write_bytes(first)
            worker = subprocess.Popen(
                [sys.executable, "-c", WORKER, str(self.folder)], stdout=subprocess.PIPE, text=True
            )
            assert worker.stdout is not None
            worker.stdout.readline()
            time.sleep(float(rng.uniform(0, 0.6)))
            worker.send_signal(signal.SIGKILL)
            told = worker.stdout.read().split()
            worker.wait()
            worker.stdout.close()
            finished = int(told[-1]) + 1 if told else 1
            time.sleep(0.2)  # a snapshot that is being written may go on a moment
            found = leftovers(self.state)
            self.assertLessEqual(len(found), 1)
            project = recover(found[0]).history.project if found else open_project(self.folder / "a.hulmo")
            candidates = [replayed(steps) for steps in (finished, finished + 1)]
            self.assertIn(
                (snapshot(project.bodies[0]), project.blend),
                [(snapshot(entry.bodies[0]), entry.blend) for entry in candidates],
            )
            for entry in found:
                entry.discard()


if __name__ == "__main__":
    unittest.main()
