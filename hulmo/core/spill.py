"""Edits put on disk, so that a long history does not fill the memory."""

import contextlib
import os
import pathlib
import pickle
import shutil
import tempfile
from dataclasses import dataclass

from hulmo.core.edit import Edit, FieldDelta
from hulmo.core.errors import FileProblem
from hulmo.core.lock_file import held_by_another, hold

PREFIX = "hulmo-history-"


@dataclass
class Spill:
    """A folder for edits; it is made when the first one comes and goes with the process.

    Folders of processes that were killed are cleaned away when one is made.
    """

    folder: "tempfile.TemporaryDirectory[str] | None" = None
    count: int = 0

    def put(self, edit: Edit) -> "OnDisk | None":
        """Write an edit; None when it cannot be (a full disk, or bodies in it, which stay as they are)."""
        if any(isinstance(delta, FieldDelta) for delta in edit.deltas):
            return None
        file: pathlib.Path | None = None
        try:
            if self.folder is None:
                _clean()
                self.folder = tempfile.TemporaryDirectory(prefix=PREFIX, ignore_cleanup_errors=True)
                hold(pathlib.Path(self.folder.name) / "lock")
            self.count += 1
            file = pathlib.Path(self.folder.name) / f"{self.count}"
            with file.open("wb") as stream:
                pickle.dump(edit, stream, protocol=5)  # read by this process only
        except OSError:
            if file is not None:
                with contextlib.suppress(OSError):
                    file.unlink()
            return None
        return OnDisk(edit.label, file)


@dataclass(frozen=True)
class OnDisk:
    """An edit that lies on disk."""

    label: str
    file: pathlib.Path

    @property
    def nbytes(self) -> int:
        """Bytes of memory it holds: nothing worth counting."""
        return 256

    def load(self) -> Edit:
        """The edit, in memory again; the file is deleted.

        Raises
        ------
        FileProblem
            Its file is gone or cannot be read.
        """
        try:
            with self.file.open("rb") as stream:
                edit = pickle.load(stream)
        except (OSError, EOFError, pickle.UnpicklingError) as error:
            raise FileProblem(
                f"{self.label}: this step was put on disk, and its file is gone ({error}); it and the steps before it cannot "
                "be taken back any more. The project is as it was"
            ) from error
        self.forget()
        assert isinstance(edit, Edit)
        return edit

    def forget(self) -> None:
        """Delete the file of a step that is not needed any more."""
        with contextlib.suppress(OSError):
            self.file.unlink()


def _clean() -> None:
    # folders whose process is gone: nobody holds their lock
    for folder in pathlib.Path(tempfile.gettempdir()).glob(f"{PREFIX}*"):
        try:
            lock = folder / "lock"
            if folder.stat().st_uid == os.getuid() and lock.exists() and not held_by_another(lock):
                shutil.rmtree(folder, ignore_errors=True)
        except OSError:
            continue
