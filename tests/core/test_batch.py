"""Many jobs side by side: variables, what waits for what, a killed process, going on after a stop."""

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

from hulmo.batch import places
from hulmo.batch.jobs import read_jobs
from hulmo.cli import main
from hulmo.core.errors import HulmoError
from hulmo.core.recipe import read_recipe, variables

RECIPE = [
    {
        "do": "add_body",
        "form": "sheet",
        "settings": {"size": "${size}", "depth": "${size}", "edge": 0.4},
        "name": "Land",
    },
    {"do": "lay_relief", "body": "Land", "relief": "noise", "settings": {"height": 2.0, "seed": "${seed}"}},
    {"do": "set_name", "name": "Land ${seed}"},
]

JOBS = {
    "jobs": [
        {"name": "land-{seed}", "with": {"seed": [1, 2, 3], "size": [16.0]},
         "steps": [["run", "r.json", "-o", "out/{name}.hulmo"]]},
        {"name": "file-{seed}", "with": {"seed": [1, 2, 3]}, "after": ["land-{seed}"],
         "steps": [["export", "out/land-{seed}.hulmo", "-o", "out/{name}.glb"]]},
        {"name": "all", "after": ["file-{seed}"], "steps": [["info", "out/land-1.hulmo"]]},
    ]
}  # fmt: skip


def children(pid: int) -> list[int]:
    out = []
    for task in pathlib.Path(f"/proc/{pid}/task").glob("*/children"):
        try:
            out += [int(word) for word in task.read_text().split()]
        except OSError:
            continue
    return out


class BatchTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = pathlib.Path(self.enterContext(tempfile.TemporaryDirectory()))
        (self.folder / "r.json").write_text(json.dumps(RECIPE))
        self.jobs = self.folder / "jobs.json"
        self.jobs.write_text(json.dumps(JOBS))

    def batch(self, *more: str) -> subprocess.Popen[str]:
        words = [sys.executable, "-m", "hulmo", "batch", str(self.jobs), *more]
        return subprocess.Popen(words, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, text=True)

    def test_all_is_done_whoever_is_killed_and_the_same_as_by_itself(self) -> None:
        process = self.batch("--workers", "2")
        end = time.monotonic() + 60
        killed = False
        while process.poll() is None and not killed and time.monotonic() < end:
            for child in children(process.pid):
                os.kill(child, signal.SIGKILL)
                killed = True
                break
            time.sleep(0.01)
        said, _ = process.communicate(timeout=300)
        self.assertTrue(killed)
        self.assertEqual(process.returncode, 0, said)
        self.assertIn("7 of 7 jobs done", said)
        self.assertRegex(said, r"(?m)^land-\d +done +[\d.]+ +2 ", "one was tried again")
        self.assertLess(said.index("done  land-1"), said.index("done  file-1"))
        alone = self.folder / "alone.hulmo"
        words = ["run", str(self.folder / "r.json"), "-o", str(alone), "--set", "seed=2", "--set", "size=16.0"]
        self.assertEqual(main(words), 0)
        glb = self.folder / "alone.glb"
        self.assertEqual(main(["export", str(alone), "-o", str(glb)]), 0)
        self.assertEqual(glb.read_bytes(), (self.folder / "out" / "file-2.glb").read_bytes())
        # gone on with: what is there stays, what is missing or changed is done anew
        (self.folder / "out" / "file-3.glb").unlink()
        said, _ = self.batch().communicate(timeout=300)
        self.assertEqual(said.count("kept"), 2 * 5, said)
        self.assertRegex(said, r"(?m)^file-3 +done")
        (self.folder / "r.json").write_text(json.dumps(RECIPE[:2]))
        said, _ = self.batch().communicate(timeout=300)
        self.assertNotIn("kept", said)

    def test_workers_of_a_scheduler_do_the_same_and_one_that_is_killed_is_done_without(self) -> None:
        """Scheduler and workers as processes of dask.distributed, begun as the guide says."""
        address = self.folder / "scheduler.json"
        dask = [sys.executable, "-m", "dask"]
        environment = {**os.environ, "DASK_DISTRIBUTED__SCHEDULER__ALLOWED_FAILURES": "5"}

        def begin(*words: str) -> subprocess.Popen[bytes]:
            process = subprocess.Popen(
                [*dask, *words, "--scheduler-file", str(address)], cwd=self.folder, env=environment,
                stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, start_new_session=True,
            )  # fmt: skip
            self.addCleanup(process.wait)
            self.addCleanup(lambda: process.poll() is None and os.killpg(process.pid, signal.SIGKILL))
            return process

        begin("scheduler", "--port", "0", "--no-dashboard")
        workers = [begin("worker", "--nthreads", "1", "--no-dashboard", "--no-nanny") for _ in range(2)]
        end = time.monotonic() + 60
        while not address.exists() and time.monotonic() < end:
            time.sleep(0.1)
        where = json.loads(address.read_text())["address"]
        time.sleep(3.0)
        process = self.batch("--scheduler", where)
        assert process.stdout is not None
        line = ""
        while "done" not in line and process.poll() is None:
            line = process.stdout.readline()
        os.killpg(workers[0].pid, signal.SIGKILL)
        said, _ = process.communicate(timeout=300)
        self.assertEqual(process.returncode, 0, said)
        self.assertIn("7 of 7 jobs done", said)
        there = {name: (self.folder / "out" / name).read_bytes() for name in ("file-1.glb", "file-3.glb")}
        for name in there:
            (self.folder / "out" / name).unlink()
        self.batch().communicate(timeout=300)
        for name, data in there.items():
            self.assertEqual((self.folder / "out" / name).read_bytes(), data)
        with self.assertRaisesRegex(HulmoError, "there is no scheduler"), mock.patch.object(places, "PATIENCE", 1.0):
            places.Cluster("tcp://127.0.0.1:9")

    def test_what_fails_stops_only_what_waits_for_it(self) -> None:
        told = {"jobs": [
            {"name": "bad", "steps": [["run", "none.json", "-o", "out/bad.hulmo"]]},
            {"name": "waits", "after": ["bad"], "steps": [["info", "out/bad.hulmo"]]},
            {"name": "good", "steps": [["new", "sheet", "-o", "out/good.hulmo"]]},
        ]}  # fmt: skip
        self.jobs.write_text(json.dumps(told))
        process = self.batch()
        said, _ = process.communicate(timeout=120)
        self.assertEqual(process.returncode, 1)
        self.assertRegex(said, r"(?m)^bad +failed +[\d.]+ +1 +hulmo: none.json")
        self.assertRegex(said, r"(?m)^waits +left ")
        self.assertTrue((self.folder / "out" / "good.hulmo").is_file())

    def test_files_of_jobs_that_cannot_be(self) -> None:
        entry = {"name": "a", "steps": [["info", "x"]]}
        for told, words in (
            ({"jobs": [entry, entry]}, "two jobs"), ({"jobs": [{**entry, "after": ["b"]}]}, "no such job"),
            ({"jobs": [{**entry, "after": ["a"]}]}, "wait for each other"), ({"jobs": [{**entry, "steps": []}]}, "nothing"),
            ({"jobs": [{**entry, "steps": [["batch", "jobs.json"]]}]}, "cannot do"),
            ({"jobs": [{"name": "../a", "steps": [["info"]]}]}, "no name"),
            ({"jobs": [{**entry, "steps": [["info", "{b}"]]}]}, "no variable"), ([], "no file of jobs"),
            ({"jobs": [{**entry, "with": {"i": list(range(200)), "j": list(range(200))}}]}, "more than"),
        ):  # fmt: skip
            self.jobs.write_text(json.dumps(told))
            with self.subTest(told), self.assertRaisesRegex(HulmoError, words):
                read_jobs(self.jobs)
        with self.assertRaisesRegex(HulmoError, "stands for nothing"):
            read_recipe(self.folder / "r.json")
        with self.assertRaisesRegex(HulmoError, "NAME=VALUE"):
            variables(["seed"])
        self.assertEqual(variables(["a=3", "b=true", "c=x=y", "d=[1]"]), {"a": 3, "b": True, "c": "x=y", "d": "[1]"})


if __name__ == "__main__":
    unittest.main()
