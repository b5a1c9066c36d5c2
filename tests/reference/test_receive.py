"""`hulmo receive`: the file alone gives the picture that was painted; damaged files are told of, not drawn."""

import contextlib
import io
import json
import pathlib
import random
import struct
import tempfile
import unittest

import numpy as np
from PIL import Image

from hulmo.cli import main
from hulmo.core.commands import AddBody, LayRelief, SetViewpoint, Stroke, UnwrapUv
from hulmo.core.history import History
from hulmo.core.io.project_file import save_project
from hulmo.core.project import Project
from hulmo.receive.draw import decibels
from tests.fuzz import mutate


def painted_ball(size: int) -> History:
    """A ball away from zero with four grounds, UV for an image of a size, and a viewpoint."""
    history = History(Project())
    history.do(AddBody("icosphere", {"radius": 4.0, "edge": 0.5}, "Ball", (3.0, 1.0, -2.0)))
    history.do(LayRelief("Ball", "noise", {"height": 0.7}))
    for i, name in enumerate(history.project.ground_names):
        place = ((7.0, 1.0, -2.0), (3.0, 5.0, -2.0), (3.0, 1.0, 2.0), (-1.0, 1.0, -2.0))[i]
        history.do(Stroke("Ball", "lay", (place,), {"radius": 4.0, "strength": 70.0}, name))
    history.do(UnwrapUv("Ball", size=size))
    history.do(SetViewpoint("One", (12.0, 5.0, 6.0), (3.0, 1.0, -2.0), 40.0))
    return history


class ReceiveTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = pathlib.Path(self.enterContext(tempfile.TemporaryDirectory()))
        history = painted_ball(512)
        save_project(history.project, self.folder / "p.hulmo")
        self.file = self.folder / "p.glb"
        self.run_main("export", str(self.folder / "p.hulmo"), "-o", str(self.file))

    def run_main(self, *words: str) -> tuple[int, str, str]:
        with contextlib.redirect_stdout(io.StringIO()) as out, contextlib.redirect_stderr(io.StringIO()) as err:
            status = main(list(words))
        return status, out.getvalue(), err.getvalue()

    def test_the_file_alone_gives_the_picture(self) -> None:
        for show in ("lit", "colour", "normals", "roughness"):
            status, said, _ = self.run_main(
                "receive", str(self.file), "-o", str(self.folder / "a.png"), "--view", "One", "--show", show, "--size",
                "320x200", "--beside", str(self.folder / "p.hulmo"),
            )  # fmt: skip
            self.assertEqual(status, 0)
            self.assertGreater(float(said.split(";")[1].split()[0]), 45.0, said)
        with Image.open(self.folder / "a.png") as picture:
            self.assertEqual(picture.size, (640, 200))

    def test_files_that_are_packed_give_it_too(self) -> None:
        for name, words in (
            ("q.glb", ("size=quantised",)), ("c.glb", ("size=compressed", "uv_weights=yes", "colour=sets")),
            ("c.gltf", ("size=compressed", "grid=0.001", "images=shared")), ("a.usda", ("up=z", "unit=cm")), ("b.usdz", ()),
        ):  # fmt: skip
            file = self.folder / name
            given = [word for setting in words for word in ("--set", setting)]
            self.assertEqual(self.run_main("export", str(self.folder / "p.hulmo"), "-o", str(file), *given)[0], 0)
            status, said, problem = self.run_main(
                "receive", str(file), "-o", str(self.folder / "a.png"), "--eye=12,5,6", "--target=3,1,-2", "--size",
                "320x200", "--beside", str(self.folder / "p.hulmo"),
            )  # fmt: skip
            self.assertEqual(status, 0, problem)
            self.assertGreater(float(said.split(";")[1].split()[0]), 45.0, said)
        (self.folder / "textures").rename(self.folder / "elsewhere")
        status, _, said = self.run_main("receive", str(self.folder / "c.gltf"), "-o", str(self.folder / "a.png"))
        self.assertEqual(status, 2)
        self.assertIn("textures/", said)
        for words, wrong in (
            ("size=tiny", "tiny"),
            ("grid=wide", "a number"),
            ("uv_weights=perhaps", "yes or no"),
            ("x", "NAME"),
        ):
            status, _, said = self.run_main(
                "export", str(self.folder / "p.hulmo"), "-o", str(self.file), "--set", words
            )
            self.assertEqual(status, 2)
            self.assertIn(wrong, said)

    def test_a_baked_file_gives_it_too(self) -> None:
        made = self.run_main(
            "bake", str(self.folder / "p.hulmo"), "-o", str(self.folder), "--size", "1024", "--maps", "base_colour", "--glb",
            str(self.folder / "b.glb"),
        )  # fmt: skip
        self.assertEqual(made[0], 0)
        status, said, _ = self.run_main(
            "receive", str(self.folder / "b.glb"), "-o", str(self.folder / "b.png"), "--size", "320x200", "--beside",
            str(self.folder / "p.hulmo"),
        )  # fmt: skip
        self.assertEqual(status, 0)
        self.assertGreater(float(said.split(";")[1].split()[0]), 30.0, said)

    def test_decibels_by_their_formula(self) -> None:
        one = np.full((4, 5, 3), 100, np.uint8)
        there = np.ones((4, 5), np.bool_)
        self.assertAlmostEqual(decibels(one, one + np.uint8(5), there), 20 * np.log10(255 / 5), places=9)
        self.assertEqual(decibels(one, one, there), 99.0)
        there[:] = False
        self.assertEqual(decibels(one, one, there), 0.0)

    def test_damaged_files_are_told_of(self) -> None:
        data = self.file.read_bytes()
        rng = random.Random(7)
        refused = 0
        for _ in range(60):
            broken = mutate.damaged_bytes(rng, data)
            if rng.random() < 0.6:  # in what it says of itself
                size = struct.unpack("<I", data[12:16])[0]
                text = mutate.damaged_json(rng, data[20 : 20 + size])
                text += b" " * (-len(text) % 4)
                whole = len(data) - size + len(text)
                broken = data[:8] + struct.pack("<II", whole, len(text)) + data[16:20] + text + data[20 + size :]
            (self.folder / "x.glb").write_bytes(broken)
            status, _, said = self.run_main(
                "receive", str(self.folder / "x.glb"), "-o", str(self.folder / "x.png"), "--size", "32x32"
            )
            self.assertIn(status, (0, 2))
            if status:
                refused += 1
                self.assertEqual(said.count("\n"), 1, said)
        self.assertGreater(refused, 15)
        document = json.loads(data[20 : 20 + struct.unpack("<I", data[12:16])[0]])
        self.assertTrue(document["extras"]["hulmo"]["shader"])
        for words, said in (
            ((str(self.folder / "none.glb"), "-o", "a.png"), "none.glb"), ((str(self.file), "-o", "a.jpg"), "as .png"),
            ((str(self.file), "-o", "a.png", "--view", "Two"), "no camera"),
            ((str(self.file), "-o", "a.png", "--size", "9"), "size"),
        ):  # fmt: skip
            status, _, told = self.run_main("receive", *words)
            self.assertEqual(status, 2)
            self.assertIn(said, told)


if __name__ == "__main__":
    unittest.main()
