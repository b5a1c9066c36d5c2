"""Files that are written whole or not at all: links, owners, long names, what a kill left."""

import os
import pathlib
import stat
import tempfile
import unittest
from unittest import mock

from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.io import gltf_binary
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.io.safe_write import PREFIX, SUFFIX, safe_write
from hulmo.core.progress import silent
from hulmo.core.setting import complete
from tests.bodies import project_with


class SafeWriteTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = pathlib.Path(folder.name)

    def write(self, path: pathlib.Path, data: bytes) -> None:
        with safe_write(path) as file:
            file.write(data)

    def test_a_link_stays_and_its_target_is_written(self) -> None:
        real, link = self.folder / "real", self.folder / "link"
        real.write_bytes(b"old")
        link.symlink_to("real")
        self.write(link, b"new")
        self.assertTrue(link.is_symlink())
        self.assertEqual(real.read_bytes(), b"new")
        lost = self.folder / "lost"
        lost.symlink_to("not yet")
        self.write(lost, b"made")
        self.assertEqual((lost.is_symlink(), (self.folder / "not yet").read_bytes()), (True, b"made"))

    def test_permissions_stay_set_group_included(self) -> None:
        file = self.folder / "a"
        file.write_bytes(b"old")
        owner = (12_345, 23_456) if os.geteuid() == 0 else (os.getuid(), os.getgid())
        os.chown(file, *owner)
        file.chmod(0o2640)
        self.write(file, b"new")
        found = file.stat()
        self.assertEqual((stat.S_IMODE(found.st_mode), found.st_uid, found.st_gid), (0o2640, *owner))

    def test_the_longest_name_a_folder_takes_is_saved(self) -> None:
        path = self.folder / ("x" * (255 - len(".hulmo")) + ".hulmo")
        save_project(project_with("sheet").project, path)
        self.assertEqual(len(open_project(path).bodies), 1)
        with self.assertRaisesRegex(FileProblem, "shorter name"):
            self.write(self.folder / ("x" * 256), b"")

    def test_a_file_longer_than_its_kind_can_say_is_refused_and_the_old_one_stays(self) -> None:
        project, path = project_with("sheet", size=4.0, depth=4.0, edge=1.0).project, self.folder / "land.glb"
        write = EXPORTERS["glb"].write
        values = complete(EXPORTERS["glb"].settings, {}, "export")
        write(project, path, values, silent())
        before = path.read_bytes()
        with (
            mock.patch.object(gltf_binary, "LONGEST", len(before) - 1),
            self.assertRaisesRegex(InvalidInput, f"{len(before):,} bytes"),
        ):
            write(project, path, values, silent())
        self.assertEqual(path.read_bytes(), before)
        self.assertEqual(list(self.folder.glob(f"{PREFIX}*")), [])

    def test_what_a_kill_left_goes_and_what_is_being_written_stays(self) -> None:
        left = self.folder / f"{PREFIX}gone{SUFFIX}"
        left.write_bytes(b"half")
        with safe_write(self.folder / "a") as first:
            self.assertFalse(left.exists())
            self.write(self.folder / "b", b"second")
            first.write(b"first")
        self.assertEqual(sorted(file.name for file in self.folder.iterdir()), ["a", "b"])
        self.assertEqual((self.folder / "a").read_bytes(), b"first")


if __name__ == "__main__":
    unittest.main()
