"""Declared settings, kernels and the benchmark."""

import importlib
import io
import json
import math
import os
import pathlib
import pkgutil
import shutil
import subprocess
import sys
import tempfile
import unittest
import unittest.mock
from contextlib import redirect_stderr

from hulmo.bench import run_benchmarks
from hulmo.core import kernel, kernel_cache, kernel_files
from hulmo.core.brushes import BRUSHES
from hulmo.core.errors import InvalidInput
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.mesh.forms import FORMS
from hulmo.core.setting import Choice, Number, Switch, complete

ROOT = pathlib.Path(__file__).parents[2]


class SettingTest(unittest.TestCase):
    NUMBER = Number("n", "N", "m", 1.0, 9.0, 2.0, "", whole=True)
    CHOICE = Choice("c", "C", (("a", "A", ""), ("b", "B", "")), "b", "")
    SWITCH = Switch("s", "S", True, "")

    def test_defaults_fill_in_and_bad_values_are_named(self) -> None:
        settings = (self.NUMBER, self.CHOICE, self.SWITCH)
        self.assertEqual(complete(settings, {"n": 3}, "here"), {"n": 3.0, "c": "b", "s": True})
        for given, words in (
            ({"n": 0.5}, "here: n is 0.5 m; it must lie between 1 and 9 m"),
            ({"n": 2.5}, "whole number"),
            ({"n": math.inf}, "must be a number"),
            ({"n": "3"}, "must be a number"),
            ({"n": True}, "must be a number"),
            ({"c": "d"}, "one of a, b"),
            ({"s": 1}, "true or false"),
            ({"m": 1}, "no setting 'm'; known are n, c, s"),
        ):
            with self.subTest(given=given), self.assertRaisesRegex(InvalidInput, words):
                complete(settings, given, "here")

    def test_every_declaration_is_usable(self) -> None:
        groups = [brush.all_settings for brush in BRUSHES.values()]
        groups += [form.settings for form in FORMS.values()] + [entry.settings for entry in EXPORTERS.values()]
        for settings in groups:
            complete(settings, {}, "defaults")
            for setting in settings:
                self.assertTrue(setting.help and setting.label)
                if isinstance(setting, Number) and setting.comfort:
                    low, high = setting.comfort
                    self.assertTrue(setting.low <= low <= setting.default <= high <= setting.high, setting.name)
        keys = [brush.key for brush in BRUSHES.values()]
        self.assertEqual(len(set(keys)), len(keys))
        for name in (*BRUSHES, *FORMS, *EXPORTERS):
            self.assertTrue((ROOT / "hulmo" / "assets" / "icons" / f"{name}.svg").exists(), f"{name} has no icon")


class KernelTest(unittest.TestCase):
    def test_every_kernel_is_found_and_compiled_by_set_up(self) -> None:
        said, told = io.StringIO(), []

        def show(done: int, total: int, name: str) -> None:
            told.append((done, total))
            kernel_cache._show(done, total, name)

        with redirect_stderr(said):
            kernel.compile_all(show)
        lines = said.getvalue().splitlines()
        count = len(kernel_files.kernel_modules())
        self.assertEqual(told, [(done, count) for done in range(count + 1)])
        self.assertLess(len(lines), 10, "in a file, a few lines are enough")
        self.assertRegex(lines[0], r"compiling kernels, once: \[ +\] 0/\d+ \w+")
        self.assertRegex(lines[-1], rf"\[#+\] {count}/{count}")
        # whoever is imported later holds none that set-up does not know
        known = {entry._function.__module__ for entry in kernel._ALL}
        for module in pkgutil.walk_packages([str(ROOT / "hulmo")], "hulmo."):
            if not module.name.endswith("__main__"):
                importlib.import_module(module.name)
        self.assertEqual({entry._function.__module__ for entry in kernel._ALL}, known)

    def test_another_version_compiles_beside_the_one_that_is_used(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            other = pathlib.Path(name) / "hulmo"
            shutil.copytree(
                ROOT / "hulmo", other, ignore=shutil.ignore_patterns("assets", "demo", "app", "__pycache__")
            )
            folders, alike = set(), []
            for changed, change in (("row_ranges", ""), ("row_ranges", "\n# changed\n"), ("moment", "\n# changed\n")):
                with (other / "core" / "mesh" / f"{changed}.py").open("a") as file:
                    file.write(change)
                script = "from hulmo.core.kernel_files import alike, cache_folder; print(cache_folder(), alike())"
                done = subprocess.run(
                    [sys.executable, "-c", script],
                    cwd=name, capture_output=True, text=True, check=True, env={**os.environ, "PYTHONPATH": name},
                )  # fmt: skip
                folders.add(done.stdout.split()[0])
                alike.append(done.stdout.split()[1])
            self.assertEqual(len(folders | {str(kernel_files.cache_folder())}), 4)
            self.assertEqual(alike[0], alike[1], "what is the same need not be compiled again")
            self.assertNotEqual(alike[1], alike[2], "but what is written into kernels is in all of them")

    def test_kernels_are_called_without_numba_loaded_without_its_rules_or_compiled(self) -> None:
        extra = """
import numpy as np
from hulmo.core.kernel import kernel

@kernel("float64(float64[::1], boolean, int64)")
def doubled(values, twice, more):
    out = np.zeros(values.size)
    for i in range(values.size):
        out[i] = 2.0 * values[i] if twice else values[i]
    return out.sum() + more

@kernel("float64(float64[:,::1], boolean, int64, Array(uint8, 2, 'A', readonly=True), float32)")
def summed(values, twice, more, bytes_, last):
    total = np.float64(last)
    for i in range(values.shape[0]):
        for j in range(values.shape[1]):
            total += (2.0 if twice else 1.0) * values[i, j] + bytes_[i, j]
    return total + more

@kernel("boolean(int32[::1])")
def rising(values):
    for i in range(1, values.size):
        if values[i] < values[i - 1]:
            return False
    return True
"""
        script = """
import sys
import numpy as np
from extra import doubled, rising, summed

def state():
    return "rules" if "numba.np.arrayobj" in sys.modules else "loaded" if "numba" in sys.modules else "bare"

table, marks = np.arange(6.0).reshape(2, 3), np.arange(12, dtype=np.uint8).reshape(2, 6)[:, ::2]
marks.flags.writeable = False
print(summed(table, True, 3, marks, 0.5), rising(np.arange(4, dtype=np.int32)), state())
if "more" in sys.argv:
    print(doubled(np.arange(4.0), True, np.int32(1)), state())
if "wrong" in sys.argv:
    for wrong in ((table.T, True, 3, marks, 0.5), (table.astype(np.float32), True, 3, marks, 0.5), (table, True, 3.5, marks)):
        try:
            print(summed(*wrong))
        except TypeError:
            print("TypeError")
"""
        total = str(2.0 * 15 + (0 + 2 + 4 + 6 + 8 + 10) + 3 + 0.5)
        with tempfile.TemporaryDirectory() as name:
            (pathlib.Path(name) / "extra.py").write_text(extra)
            env = {**os.environ, "PYTHONPATH": f"{ROOT}:{name}", "XDG_CACHE_HOME": name}
            env.pop("NUMBA_CACHE_DIR", None)

            def said(*words: str) -> list[str]:
                done = subprocess.run(
                    [sys.executable, "-c", script, *words], capture_output=True, text=True, check=True, env=env
                )
                return done.stdout.split()

            self.assertEqual(said(), [total, "True", "rules"], "compiled")
            self.assertEqual(said(), [total, "True", "bare"])
            self.assertEqual(
                said("more"), [total, "True", "bare", "13.0", "rules"], "one that makes arrays is compiled"
            )
            self.assertEqual(said("more"), [total, "True", "bare", "13.0", "loaded"])
            self.assertEqual(said("wrong"), [total, "True", "bare", *["TypeError"] * 3], "errors are Numba's")
            kept = sorted(pathlib.Path(name).rglob("*.o"))
            self.assertEqual([file.name.rsplit(".", 2)[0] for file in kept], ["extra.rising", "extra.summed"])
            whole = kept[1].read_bytes()
            for torn in (whole[:-20], whole.replace(b"summed", b"summit", 1), b"[]\n" + whole.split(b"\n", 1)[1], b""):
                kept[1].write_bytes(torn)
                self.assertEqual(said(), [total, "True", "loaded"], "what is damaged is not called")

    def test_a_project_is_read_to_the_bit_with_numba_and_without(self) -> None:
        script = """
import hashlib, sys
import numpy as np
from hulmo.core import kernel
if "numba" in sys.argv:
    kernel.load_numba()
from hulmo.core.io.project_file import open_project
from hulmo.core.mesh.tree_build import morton_order
from hulmo.demo import demo_file
from hulmo.core.ground.quantise import quantise
from hulmo.core.dress.sky import sky_image
body = open_project(demo_file("tern-skerry")).bodies[0]
tables = [body.vertices[name] for name in body.vertices.names]
tables += [body.corners.vertex, body.corners.opposite, body.corners.first_corner, quantise(body.vertices["weight"])]
every = np.arange(body.corners.vertex.size // 3, dtype=np.int32)
tables += [morton_order(body.corners.vertex, body.vertices["position"], every), sky_image(30.0, 1.0, 1.0)]
mark = hashlib.sha256()
for table in tables:
    mark.update(table.tobytes())
print(mark.hexdigest(), "numba" in sys.modules)
"""
        said = [
            subprocess.run(
                [sys.executable, "-c", script, *words], capture_output=True, text=True, check=True
            ).stdout.split()
            for words in ((), ("numba",))
        ]
        self.assertEqual([there for _, there in said], ["False", "True"])
        self.assertEqual(said[0][0], said[1][0])


class BenchTest(unittest.TestCase):
    def test_figures_stand_beside_their_floor(self) -> None:
        lines: list[str] = []
        with tempfile.TemporaryDirectory() as home:
            env = {"XDG_CONFIG_HOME": home, "XDG_DATA_HOME": home}
            with unittest.mock.patch.dict(os.environ, env):
                figures = run_benchmarks(
                    lines.append, 100_000, ("strokes", "brushes", "growth", "memory", "startup", "journal")
                )
                small = ("grounds", "reliefs", "weather", "by_hand", "down", "borders", "deliver", "lines", "topology")
                rest = run_benchmarks(lines.append, 20_000, small)
        self.assertGreater(figures["bandwidth_bytes_per_s"], 1e8)
        self.assertEqual([round(entry["touched"], -3) for entry in figures["strokes"]], [1000, 10000, 50000])
        for entry in figures["strokes"]:
            self.assertGreater(entry["dab_over_floor"], 1.0)
            self.assertGreaterEqual(entry["dab_ms"]["p95"], entry["dab_ms"]["p50"])
        dabs = [brush.name for brush in BRUSHES.values() if not brush.remeshes]
        self.assertEqual([entry["brush"] for entry in figures["brushes"]], dabs)
        self.assertEqual([entry["name"] for entry in figures["growth"]], ["finer", "coarser"])
        for entry in figures["growth"]:
            self.assertTrue(3000 < entry["remeshed"] < 8000, entry)
        for entry in figures["memory"]:
            self.assertLessEqual(entry["bytes_per_vertex"], entry["limit"])
        self.assertNotIn("failed", figures["startup"])
        for measured in (figures, rest):
            self.assertEqual(json.loads(json.dumps(measured)), measured)
        self.assertEqual(rest.keys() - {"bandwidth_bytes_per_s"}, set(small))
        with self.assertRaisesRegex(InvalidInput, "no part 'speed'"):
            run_benchmarks(None, 1000, ("speed",))
        self.assertGreater(len(lines), 8)


class SetUpTest(unittest.TestCase):
    @unittest.skipUnless((ROOT / ".venv").exists(), "the environment was made by hand")
    def test_the_demo_command_says_when_there_is_no_display(self) -> None:
        bare = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
        done = subprocess.run([ROOT / "hulmo-demo"], env=bare, capture_output=True, text=True, check=False)
        self.assertEqual(done.returncode, 2)
        self.assertIn("no display", done.stderr)
        self.assertIn("xvfb-run", done.stderr)

    def test_versions_are_pinned_and_agree(self) -> None:
        locked = dict(line.split("==") for line in (ROOT / "requirements.txt").read_text().splitlines())
        project = (ROOT / "pyproject.toml").read_text()
        for line in project.split("dependencies = [")[1].split("]")[0].splitlines():
            name, _, version = line.strip().strip('",').partition("==")
            if name:
                self.assertEqual(locked[name], version)


if __name__ == "__main__":
    unittest.main()
