"""The command line: what it writes, what it says, its exit status."""

import contextlib
import io
import json
import os
import pathlib
import subprocess
import sys
import tempfile
import unittest

import numpy as np
import trimesh
from PIL import Image

import hulmo
from hulmo.cli import main
from hulmo.core.describe import faults
from hulmo.core.ground.evaluate import evaluate
from hulmo.core.ground.hand import hand_share
from hulmo.core.io.project_file import open_project
from hulmo.core.progress import silent
from hulmo.demo import DEMOS, demo_file


class CliTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = pathlib.Path(folder.name)

    def run_main(self, *words: str) -> tuple[int, str, str]:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            status = main([word.replace("@", f"{self.folder}/") for word in words])
        return status, out.getvalue(), err.getvalue()

    def test_new_info_run_export_render(self) -> None:
        status, out, _ = self.run_main("new", "icosphere", "--radius", "10", "--edge", "0.5", "-o", "@a.hulmo")
        self.assertEqual((status, "icosphere" in out.lower()), (0, True))
        figures = json.loads(self.run_main("info", "@a.hulmo", "--json")[1])
        body = figures["bodies"][0]
        self.assertEqual((body["closed"], body["genus"], body["vertices"]), (True, 0, 10 * 22**2 + 2))
        self.assertAlmostEqual(body["volume"] / 4188.79, 1, delta=0.01)
        self.assertIsNone(body["care"], "not asked for")
        cared = json.loads(self.run_main("info", "@a.hulmo", "--json", "--care")[1])["bodies"][0]
        self.assertEqual(set(cared["care"].values()), {0})
        self.assertEqual({**cared, "care": None}, body)
        self.assertIn("Mesh care: nothing found", self.run_main("info", "@a.hulmo", "--care")[1])
        recipe = self.folder / "r.json"
        recipe.write_text(
            json.dumps([{"do": "stroke", "body": "Icosphere", "brush": "raise", "samples": [[10, 0, 0]]}])
        )
        self.assertEqual(self.run_main("run", "@r.json", "-i", "@a.hulmo", "-o", "@b.hulmo")[0], 0)
        self.assertGreater(
            float(open_project(self.folder / "b.hulmo").bodies[0].vertices["position"][:, 0].max()), 10.4
        )
        for name in ("a.glb", "a.ply"):
            self.assertEqual(self.run_main("export", "@b.hulmo", "-o", f"@{name}")[0], 0)
            self.assertGreater((self.folder / name).stat().st_size, 100_000)
        self.assertEqual(
            self.run_main("render", "@b.hulmo", "-o", "@a.png", "--size", "200x120", "--show", "form")[0], 0
        )
        self.assertEqual(Image.open(self.folder / "a.png").size, (200, 120))
        self.assertIn("closed", self.run_main("info", "@a.hulmo")[1])

    def test_a_passage_bored_sculpted_recast_reduced_and_delivered(self) -> None:
        up = [0, 1, 0.1]
        (self.folder / "r.json").write_text(
            json.dumps(
                [
                    {"do": "add_body", "form": "block", "name": "Rock",
                     "settings": {"size": 20, "height": 14, "depth": 16, "edge": 0.5}},
                    {"do": "bore", "body": "Rock", "path": [[-14, 6, 0], [0, 7, 1], [14, 6, 0]], "radius": 2.5, "rough": 0.2,
                     "ground": "Shell sand"},
                    {"do": "stroke", "body": "Rock", "brush": "raise", "samples": [[0, 7, 1, *up], [1.5, 7, 1, *up]],
                     "settings": {"radius": 1.5, "height": 0.6, "grow": "both", "edge": 0.15, "strength": 100}},
                    {"do": "recast", "body": "Rock", "edge": 0.35},
                    {"do": "reduce", "body": "Rock", "share": 0.5},
                ]
            )
        )  # fmt: skip
        self.assertEqual(self.run_main("run", "@r.json", "-o", "@r.hulmo")[0], 0)
        body = json.loads(self.run_main("info", "@r.hulmo", "--json")[1])["bodies"][0]
        self.assertEqual((body["closed"], body["genus"], body["parts"]), (True, 1, 1))
        self.assertLess(body["thin_share"], 0.002)
        # the passage is 20 m long and 2.5 m wide: its walls are about a fifth of all vertices or more, and sand
        self.assertTrue(0.15 < body["ground_shares"]["Shell sand"] < 0.5)
        self.assertAlmostEqual(sum(body["ground_shares"].values()), 1.0, places=4)
        self.assertEqual(self.run_main("export", "@r.hulmo", "-o", "@r.glb")[0], 0)
        self.assertGreater((self.folder / "r.glb").stat().st_size, 500_000)

    def test_every_problem_is_one_line_and_status_2(self) -> None:
        (self.folder / "bad.hulmo").write_bytes(b"nothing")
        (self.folder / "bad.json").write_text('[{"do": "fill", "body": "Rock", "ground": "x"}]')
        (self.folder / "odd.json").write_text('[{"do": "melt"}]')
        self.run_main("new", "sheet", "--edge", "8", "-o", "@s.hulmo")
        keep = (self.folder / "s.hulmo").read_bytes()
        for words, said in (
            (("info", "@none.hulmo"), "cannot be read"),
            (("info", "@bad.hulmo"), "no Hulmo project"),
            (
                ("new", "sheet", "--size", "100000", "--edge", "0.001", "-o", "@x.hulmo"),
                "at most 60,000,000 are possible",
            ),
            (("new", "sheet", "--radius", "3", "-o", "@x.hulmo"), "no setting 'radius'"),
            (("new", "sheet", "--size", "wide", "-o", "@x.hulmo"), "invalid float"),
            (("new", "cone", "-o", "@x.hulmo"), "no base form 'cone'"),
            (("new", "sheet", "-o", "@x.obj"), "ends in .hulmo"),
            (("new", "sheet", "-o", "@no/x.hulmo"), "folder does not exist"),
            (("new", "sheet"), "--output"),
            (("run", "@bad.json", "-i", "@s.hulmo", "-o", "@s.hulmo"), "step 1: fill: there is no body 'Rock'"),
            (("run", "@odd.json", "-o", "@s.hulmo"), "step 1: .*melt"),
            (("export", "@s.hulmo", "-o", "@a.fbx"), "choose one of .glb, .gltf"),
            (("export", "@s.hulmo", "-o", "@a.ply", "--colour", "mean"), "no setting 'colour'"),
            (("export", "@s.hulmo", "-o", "@a.glb", "--colour", "red"), "one of mean, weights"),
            (("render", "@s.hulmo", "-o", "@a.png", "--size", "big"), "not of the form"),
            (("render", "@s.hulmo", "-o", "@a.png", "--view", "roof"), "no viewpoint"),
            (("render", "@s.hulmo", "-o", "@a.png", "--flight", "9"), "two viewpoints at least"),
            (("render", "@s.hulmo", "-o", "@a.png", "--eye", "1,2"), "three numbers"),
            (("render", "@s.hulmo", "-o", "@a.png", "--eye=1,2,3", "--target=1,2,3"), "two different finite points"),
            (
                ("render", "@s.hulmo", "-o", "@a.png", "--eye=1,2,3", "--target=0,0,0", "--view", "V"),
                "take one of them",
            ),
            (("bake", "@s.hulmo", "-o", "@none"), "no such folder"),
            (("bake", "@s.hulmo", "-o", "@", "--maps", "shine"), "cannot be baked"),
            (("bake", "@s.hulmo", "-o", "@", "--body", "Rock"), "no body"),
            (("bake", "@s.hulmo", "-o", "@", "--glb", "@a.glb", "--maps", "slope"), "needs base_colour"),
            (("bake", "@s.hulmo", "-o", "@", "--from", "Moon"), "no body"),
            (("demo", "atlantis"), "no demo 'atlantis'"),
            (("--nonsense",), "nonsense"),
        ):
            with self.subTest(words=words):
                status, _, err = self.run_main(*words)
                self.assertEqual(status, 2)
                self.assertEqual(err.count("\n"), 1, err)
                self.assertRegex(err, said)
        self.assertEqual((self.folder / "s.hulmo").read_bytes(), keep)
        self.assertEqual(
            sorted(p.name for p in self.folder.iterdir()), ["bad.hulmo", "bad.json", "odd.json", "s.hulmo"]
        )

    def test_recipes_look_beside_themselves_and_tell_what_came_in(self) -> None:
        inner = self.folder / "inner"
        inner.mkdir()
        box = trimesh.creation.box((8, 8, 8))
        torn = trimesh.Trimesh(box.vertices, np.vstack((box.faces, box.faces[:1])), process=False)
        torn.export(inner / "rock.obj")
        for name in ("bumps.png", "shape.png"):
            Image.fromarray(np.arange(256, dtype=np.uint8).reshape(16, 16)).save(inner / name)
        (inner / "r.json").write_text(
            json.dumps(
                [
                    {"do": "import_body", "file": "rock.obj", "name": "Rock"},
                    {"do": "recast", "body": "Rock", "edge": 1.0, "how": "surface"},
                    {"do": "add_ground", "texture": "shape.png", "name": "Own"},
                    {"do": "lay_relief", "body": "Rock", "relief": "image", "settings": {"image": "bumps.png"}},
                    {"do": "stroke", "body": "Rock", "brush": "stamp", "samples": [[4, 0, 0]],
                     "settings": {"image": "shape.png"}},
                ]
            )
        )  # fmt: skip
        status, out, err = self.run_main("run", "@inner/r.json", "-o", "@r.hulmo")
        self.assertEqual((status, err), (0, ""))
        self.assertIn("1 triangles left out: they were there twice", out)
        self.assertRegex(out, "Rock: Mesh care: ")
        layer = open_project(self.folder / "r.hulmo").bodies[0].layers[0]
        assert layer.laid is not None
        self.assertEqual(layer.laid.settings["image"], str(inner / "bumps.png"))
        (inner / "rock.obj").unlink()
        status, _, err = self.run_main("run", "@inner/r.json", "-o", "@s.hulmo")
        self.assertEqual(status, 2)
        self.assertIn(str(inner / "rock.obj"), err)

    def test_the_module_runs_as_the_command_does(self) -> None:
        done = subprocess.run([sys.executable, "-m", "hulmo", "--version"], capture_output=True, text=True, check=False)
        self.assertEqual((done.returncode, done.stdout), (0, f"Hulmo {hulmo.__version__}\n"))

    def test_without_a_display_the_window_says_so(self) -> None:
        bare = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
        done = subprocess.run(
            [sys.executable, "-m", "hulmo.cli"], env=bare, capture_output=True, text=True, check=False
        )
        self.assertEqual(done.returncode, 2)
        self.assertIn("no display", done.stderr)

    def test_the_recipes_of_the_guide_run_and_are_delivered(self) -> None:
        folder = pathlib.Path(__file__).parents[2] / "docs" / "recipes"
        for name, column in (("second-row", "one ground"), ("outline-and-track", "cut line"), ("late-unwrap", "seam")):
            out = self.folder / f"{name}.hulmo"
            self.assertEqual(self.run_main("run", str(folder / f"{name}.json"), "-o", str(out))[0], 0)
            self.assertIn(column, open_project(out).bodies[0].corners.slots)
            self.assertEqual(self.run_main("export", str(out), "-o", str(self.folder / f"{name}.glb"))[0], 0)

    def test_the_demo_is_shipped_built(self) -> None:
        for name in DEMOS:
            project = open_project(demo_file(name))
            self.assertTrue(project.bodies and project.viewpoints)
            self.assertGreater(len(project.grounds), 3)
            body = project.bodies[0]
            if name == "cobble-spires":  # by hand alone, as few triangles as it takes
                self.assertLess(sum(entry.corners.live_count for entry in project.bodies), 3000)
                self.assertIn("one ground", body.corners.slots)
            else:
                self.assertGreater(len(body.rules), 2)
                self.assertTrue(0.01 < float(hand_share(body, slice(None)).mean()) < 0.9, "rules and hand together")
                np.testing.assert_allclose(body.vertices["ruled"], evaluate(body, project.ground_names), atol=2e-3)
            self.assertTrue(demo_file(name).with_suffix(".json").exists())
            for entry in project.bodies:
                self.assertEqual(
                    {k: v for k, v in faults(project, entry, silent()).items() if v}, {}, f"{name}, {entry.name}"
                )


if __name__ == "__main__":
    unittest.main()
