"""What is painted goes out as images and comes back without loss; held against Pillow, pypng and sums by hand."""

import pathlib
import tempfile
import unittest

import numpy as np
import png
from PIL import Image

from hulmo.core.commands import (
    AddBody,
    AddLayer,
    GuardFrom,
    LayImages,
    LayRelief,
    Stroke,
    UnwrapUv,
)
from hulmo.core.errors import HulmoError
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.history import History
from hulmo.core.io.paint_note import read_note
from hulmo.core.io.paint_out import PaintedOut, paint_out
from hulmo.core.progress import Progress
from hulmo.core.project import Project

GROUNDS = ("Dark basalt", "Thrift turf", "Shell sand")


def values_of(path: pathlib.Path) -> np.ndarray:
    """(H, W, C) by pypng, which is not what read the files in Hulmo's own way for grey ones."""
    with path.open("rb") as file:
        width, height, rows, info = png.Reader(file=file).read()
        return np.array([list(row) for row in rows]).reshape(height, width, info["planes"])


class PaintedImagesTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = pathlib.Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.history = History(Project())
        self.history.do(AddBody("icosphere", {"radius": 3.0, "edge": 0.5}, "Ball"))
        self.body = self.history.project.bodies[0]
        self.history.do(UnwrapUv("Ball", size=1024))
        middle = [(3.0, 0.0, 0.0), (0.0, 3.0, 0.0), (0.0, 0.0, 3.0)]
        for name, at in zip(GROUNDS, middle, strict=True):
            self.history.do(Stroke("Ball", "lay", (at,), {"radius": 2.5, "strength": 0.7}, ground=name))
        self.history.do(
            Stroke("Ball", "tint", ((0.0, 0.0, -3.0),), {"radius": 2.0, "colour": "#336699", "strength": 0.6})
        )
        self.history.do(GuardFrom("Ball", "height", low=-9.0, high=-2.0, soft=1.0))
        self.history.do(AddLayer("Ball", "Hand"))
        self.history.do(
            Stroke("Ball", "raise", ((0.0, 3.0, 0.0),), {"radius": 2.0, "height": 0.4, "grow": "off"}, layer="Hand")
        )

    def out(self, what: str, **more: object) -> PaintedOut:
        given = {"size": 512, "layer": "Hand" if what == "relief" else "", **more}
        return paint_out(self.history.project, "Ball", self.folder, what, Progress(), **given)  # type: ignore[arg-type]

    def test_out_and_in_again_changes_no_value(self) -> None:
        for by in ("uv", "above"):
            for bits in (8, 16):
                for what in ("grounds", "guard", "tint", "relief"):
                    with self.subTest(what, by=by, bits=bits):
                        first = self.out(what, by=by, bits=bits)
                        before = [values_of(file) for file in first.files]
                        steps = len(self.history.commands)
                        self.history.do(LayImages.noted(read_note(first.note), self.folder))
                        again = self.out(what, by=by, bits=bits)
                        if by == "uv":
                            self.assertEqual((first.crowded, first.beyond), (0, 0))
                        for file, old in zip(again.files, before, strict=True):
                            np.testing.assert_array_equal(values_of(file), old)
                        while len(self.history.commands) > steps:
                            self.history.undo()
        first = self.out("grounds")
        total = sum(values_of(file) for file in first.files)
        self.assertLessEqual(set(np.unique(total).tolist()), {0, 65535}, "shares sum exactly, at every texel")
        # and the vertices' own shares are what they were, to half a step of 16 bits
        weight = self.body.vertices[WEIGHT].copy()
        self.history.do(LayImages.noted(read_note(first.note), self.folder))
        np.testing.assert_allclose(self.body.vertices[WEIGHT], weight, atol=1.01 / 65535)

    def test_what_was_painted_in_an_image_is_there_and_the_rest_stays(self) -> None:
        first = self.out("grounds", by="above")
        turf = next(file for file in first.files if "turf" in file.name)
        image = values_of(turf)[..., 0].astype(np.uint16)
        image[:, :100] = 65535  # the west
        with turf.open("wb") as file:
            png.Writer(512, 512, greyscale=True, bitdepth=16).write(file, image.tolist())
        before = self.body.vertices[WEIGHT].copy()
        guard = self.body.vertices["guard"][:, 0].copy()
        self.history.do(LayImages.noted(read_note(first.note), self.folder))
        column = self.history.project.ground_names.index("Thrift turf")
        after = self.body.vertices[WEIGHT]
        place = self.body.vertices["position"]
        west = (place[:, 0] - place[:, 0].min()) / 6.0 < 99 / 512
        np.testing.assert_allclose(after[west & (guard == 0), column], 1.0, atol=1e-4)
        np.testing.assert_allclose(after[west & (guard >= 1)], before[west & (guard >= 1)], atol=1e-6)
        east = (place[:, 0] - place[:, 0].min()) / 6.0 > 102 / 512
        np.testing.assert_allclose(after[east], before[east], atol=2e-5)
        # an image between its texels: a ramp from west to east, by the formula
        ramp = np.broadcast_to(np.linspace(0, 65535, 64).round().astype(np.uint16), (64, 64))
        with (self.folder / "ramp.png").open("wb") as file:
            png.Writer(64, 64, greyscale=True, bitdepth=16).write(file, ramp.tolist())
        self.history.do(LayImages("Ball", "guard", (str(self.folder / "ramp.png"),), by="above", between=True))
        place = self.body.vertices["position"].astype(float)
        low, side = place[:, (0, 2)].min(axis=0), np.ptp(place[:, (0, 2)], axis=0).max()
        wanted = np.clip(((place[:, 0] - low[0]) / side * 64 - 0.5) / 63, 0, 1)
        np.testing.assert_allclose(self.body.vertices["guard"][:, 0], wanted, atol=2e-4)

    def test_what_is_wrong_is_said(self) -> None:
        def save(name: str, mode: str, size: tuple[int, int] = (32, 32), colour: object = 0) -> str:
            path = self.folder / name
            Image.new(mode, size, colour).save(path)  # type: ignore[arg-type]
            return str(path)

        grey, other = save("a.png", "L"), save("b.png", "L", (16, 16))
        coloured, clear = save("c.png", "RGB", colour=(255, 0, 0)), save("d.png", "RGBA", colour=(9, 9, 9, 7))
        broken = self.folder / "e.png"
        broken.write_bytes(pathlib.Path(grey).read_bytes()[:40])
        (self.folder / "n.paint.json").write_text("{}")
        before = self.body.vertices[WEIGHT].copy()
        for command, words in (
            (LayImages("Ball", "grounds", (grey, other), ("Thrift turf", "Shell sand")), "not of one size .*a.png 32 x 32"),
            (LayImages("Ball", "grounds", (coloured,), ("Thrift turf",)), "c.png: is coloured"),
            (LayImages("Ball", "guard", (clear,)), "transparent"),
            (LayImages("Ball", "guard", (str(broken),)), "e.png"),
            (LayImages("Ball", "guard", (str(self.folder / "none.png"),)), "none.png"),
            (LayImages("Ball", "grounds", (grey,), ("Thrift turf", "Shell sand")), "one a ground"),
            (LayImages("Ball", "grounds", (grey, grey), ("Thrift turf", "Thrift turf")), "each ground once"),
            (LayImages("Ball", "grounds", (grey,), ("Lava",)), "Lava"),
            (LayImages("Ball", "gold", (grey,)), "what is"), (LayImages("Ball", "guard", (grey,), by="below"), "by is"),
            (LayImages("Ball", "guard", (grey,), into="light"), "no UV light"),
            (LayImages("Ball", "guard", (grey,), by="above", box=(900.0, 0.0, 1.0)), "no vertex"),
            (LayImages("Ball", "guard", (grey,), box=(0.0, 0.0, float("nan"))), "box"),
            (LayImages("Ball", "relief", (grey,), layer="Hand", low=1.0, high=1.0), "high must lie above"),
            (LayImages("Ball", "relief", (grey,), layer="None"), "no relief layer"),
        ):  # fmt: skip
            with self.subTest(command=command), self.assertRaisesRegex(HulmoError, words):
                self.history.do(command)
        with self.assertRaisesRegex(HulmoError, "no note"):
            read_note(self.folder / "n.paint.json")
        with self.assertRaisesRegex(HulmoError, "no such folder"):
            paint_out(self.history.project, "Ball", self.folder / "gone", "guard", Progress())
        np.testing.assert_array_equal(self.body.vertices[WEIGHT], before)

    def test_many_vertices_in_few_texels_are_counted(self) -> None:
        self.assertGreater(self.out("grounds", size=16).crowded, 50)
        self.history.do(LayRelief("Ball", "noise", {"height": 3.0}, "More"))
        self.assertGreater(self.out("relief", layer="More", low=-0.1, high=0.1).beyond, 50)


if __name__ == "__main__":
    unittest.main()
