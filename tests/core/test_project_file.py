"""The project file: what goes in comes out, what is malformed is refused, a failed save loses nothing."""

import errno
import io
import json
import os
import pathlib
import tempfile
import unittest
import zipfile
from unittest import mock

import numpy as np

from hulmo.core.commands import AddGround, LockBorder, SetName, SetViewpoint
from hulmo.core.errors import FileProblem
from hulmo.core.io.project_file import open_project, save_project
from tests.bodies import project_with, regions, snapshot, stroke


class ProjectFileTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = pathlib.Path(folder.name)
        self.path = self.folder / "a.hulmo"

    def project(self) -> object:
        history = project_with("sheet")
        history.do(SetName("Ness"))
        history.do(LockBorder("Body"))
        history.do(AddGround("scree", tile=1.5, tint="#ffeedd"))
        history.do(SetViewpoint("v", (1, 2, 3), (0, 0, 0)))
        history.do(stroke("raise", (0, 0, 0), radius=2.0, build_up="until_reset"))
        history.do(stroke("lay", (1, 0, 0), ground="Scree", radius=2.0))
        regions(history.project.bodies[0])[5:9] = 3
        return history.project

    def test_everything_comes_back_to_the_bit(self) -> None:
        project = self.project()
        for small in (False, True):
            save_project(project, self.path, small=small)  # type: ignore[arg-type]
            back = open_project(self.path)
            self.assertEqual(snapshot(back.bodies[0]), snapshot(project.bodies[0]))  # type: ignore[attr-defined]
            for name in ("name", "grounds", "blend", "light", "viewpoints"):
                self.assertEqual(getattr(back, name), getattr(project, name))
            mine, other = project.bodies[0].corners, back.bodies[0].corners  # type: ignore[attr-defined]
            np.testing.assert_array_equal(mine.vertex, other.vertex)
            np.testing.assert_array_equal(mine.opposite, other.opposite)
            self.assertEqual(list(mine.slots.layout()), list(other.slots.layout()))
            for name in mine.slots.names():
                np.testing.assert_array_equal(mine.slots[name], other.slots[name])
            self.assertTrue(back.bodies[0].border_lock)
            self.assertEqual(back.bodies[0].coat_owner, project.bodies[0].coat_owner)  # type: ignore[attr-defined]
        first = self.path.read_bytes()
        save_project(project, self.path, small=True)  # type: ignore[arg-type]
        self.assertEqual(self.path.read_bytes(), first, "the same project gives the same file")

    def changed(self, name: str, data: bytes | None, add: dict[str, bytes] | None = None) -> pathlib.Path:
        save_project(self.project(), self.path)  # type: ignore[arg-type]
        out = self.folder / "bad.hulmo"
        with zipfile.ZipFile(self.path) as old, zipfile.ZipFile(out, "w") as new:
            for info in old.infolist():
                if info.filename != name:
                    new.writestr(info.filename, old.read(info.filename))
                elif data is not None:
                    new.writestr(name, data)
            for extra, content in (add or {}).items():
                new.writestr(extra, content)
        return out

    def document(self, **changes: object) -> bytes:
        save_project(self.project(), self.path)  # type: ignore[arg-type]
        with zipfile.ZipFile(self.path) as archive:
            record = json.loads(archive.read("project.json"))
        body = changes.pop("body", {})
        record.update(changes)
        record["bodies"][0].update(body)
        return json.dumps(record).encode()

    def array(self, values: np.ndarray, pickle: bool = False) -> bytes:
        stream = io.BytesIO()
        np.save(stream, values, allow_pickle=pickle)
        return stream.getvalue()

    def test_what_was_painted_before_there_were_rules_is_hand_paint(self) -> None:
        record = json.loads(self.document(version=[1, 1]))
        record["bodies"][0]["columns"].pop("hand")
        body = open_project(self.changed("project.json", json.dumps(record).encode())).bodies[0]
        weight = self.project().bodies[0].vertices["weight"]  # type: ignore[attr-defined]
        self.assertGreater(float(weight[:, 1:].max()), 0.1)
        np.testing.assert_array_equal(body.vertices["weight"], weight)
        np.testing.assert_array_equal(body.vertices["hand"], np.where(weight[:, :1] < 1, weight, 0))

    def test_malformed_files_are_refused_with_a_reason(self) -> None:
        table = "bodies/1/position.npy"
        count = 221
        cases = (
            ("project.json", None, "project.json is missing"),
            ("project.json", b"{", "project.json is damaged"),
            ("project.json", b"[]", "not a Hulmo project"),
            ("project.json", self.document(format="other"), "not a Hulmo project"),
            ("project.json", self.document(version=[2, 0]), "newer Hulmo"),
            ("project.json", self.document(version="1"), "no readable version"),
            ("project.json", self.document(grounds=[]), "0 grounds"),
            ("project.json", self.document(grounds=[{"name": "x", "texture": "", "tile": 0.0}]), "tile is 0 m"),
            ("project.json", self.document(body={"base": 9}), "stands on ground 9"),
            (
                "project.json",
                self.document(body={"rules": [{"ground": "x", "strength": 7.0}]}),
                "strength is 7|'ruled'",
            ),
            ("project.json", self.document(body={"vertices": 10**12}), "bodies/1/position.npy is"),
            ("project.json", self.document(body={"vertices": -1}), "negative count"),
            ("project.json", self.document(body={"columns": {"position": 3}}), "needs a column 'weight'"),
            (table, None, "position.npy is missing"),
            (table, b"\x93NUMPY", "damaged"),
            (table, self.array(np.zeros((count, 3), np.float64)), "claims|float64"),
            (table, self.array(np.zeros((count - 1, 3), np.float32)), "damaged"),
            (table, self.array(np.array([{"a": 1}] * 3, object), True), "damaged|object"),
            (table, self.array(np.full((count, 3), np.nan, np.float32)), "not finite"),
            (table, self.array(np.zeros((count, 3), np.float32))[:-8], "ends in the middle"),
            ("bodies/1/weight.npy", self.array(np.zeros((count, 5), np.float32)), "do not sum to 1"),
            ("bodies/1/triangles.npy", self.array(np.full((384, 3), 7000, np.int32)), "outside"),
            ("bodies/1/triangles.npy", self.array(np.zeros((384, 3), np.int32)), "manifold|fans"),
        )
        for name, data, words in cases:
            with self.subTest(words=words), self.assertRaisesRegex(FileProblem, words):
                open_project(self.changed(name, data))
        for extra in ("../evil.npy", "/etc/evil", "a\\..\\b"):
            with self.assertRaisesRegex(FileProblem, "points outside"):
                open_project(self.changed("", None, {extra: b"x"}))

    def test_files_that_are_no_zip_or_cut_or_flipped(self) -> None:
        for data in (b"", b"PK\x03\x04 nothing", os.urandom(5000)):
            self.path.write_bytes(data)
            with self.assertRaisesRegex(FileProblem, "no Hulmo project"):
                open_project(self.path)
        with self.assertRaisesRegex(FileProblem, "cannot be read"):
            open_project(self.folder / "none.hulmo")
        with self.assertRaisesRegex(FileProblem, "cannot be read"):
            open_project(self.folder)
        save_project(self.project(), self.path, small=True)  # type: ignore[arg-type]
        whole = bytearray(self.path.read_bytes())
        rng = np.random.default_rng(0)
        for _ in range(60):
            broken = bytearray(whole)
            at = int(rng.integers(len(whole)))
            broken[at] ^= 1 << int(rng.integers(8))
            if rng.random() < 0.3:
                del broken[at:]
            self.path.write_bytes(broken)
            try:
                open_project(self.path)
            except FileProblem:
                continue  # refused in words; a flip in a name or a date may also do no harm

    def test_a_failed_save_leaves_the_old_file(self) -> None:
        save_project(self.project(), self.path)  # type: ignore[arg-type]
        before = self.path.read_bytes()

        def full(*_: object) -> None:
            raise OSError(errno.ENOSPC, "No space left on device")

        with (
            mock.patch("hulmo.core.io.safe_write.os.fsync", full),
            self.assertRaisesRegex(FileProblem, "free some space"),
        ):
            save_project(self.project(), self.path)  # type: ignore[arg-type]
        self.assertEqual(self.path.read_bytes(), before)
        self.assertEqual([file.name for file in self.folder.iterdir()], ["a.hulmo"], "nothing is left lying about")
        with self.assertRaisesRegex(FileProblem, "folder does not exist"):
            save_project(self.project(), self.folder / "no" / "a.hulmo")  # type: ignore[arg-type]
        with self.assertRaisesRegex(FileProblem, "not written"):
            save_project(self.project(), pathlib.Path("/proc/a.hulmo"))  # type: ignore[arg-type]


if __name__ == "__main__":
    unittest.main()
