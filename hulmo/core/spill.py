"""Edits put on disk, so that a long history does not fill the memory."""

import pathlib
import pickle
import tempfile
from dataclasses import dataclass

from hulmo.core.edit import Edit, FieldDelta


@dataclass
class Spill:
    """A folder for edits; it is made when the first one comes and goes with the process."""

    folder: "tempfile.TemporaryDirectory[str] | None" = None
    count: int = 0

    def put(self, edit: Edit) -> "OnDisk | None":
        """Write an edit; None when it cannot be (a full disk, or bodies in it, which stay as they are)."""
        if any(isinstance(delta, FieldDelta) for delta in edit.deltas):
            return None
        try:
            if self.folder is None:
                self.folder = tempfile.TemporaryDirectory(prefix="hulmo-history-")
            self.count += 1
            file = pathlib.Path(self.folder.name) / f"{self.count}"
            with file.open("wb") as stream:
                pickle.dump(edit, stream, protocol=5)  # read by this process only
        except OSError:
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
        """The edit, in memory again; the file is deleted."""
        with self.file.open("rb") as stream:
            edit = pickle.load(stream)
        self.file.unlink(missing_ok=True)
        assert isinstance(edit, Edit)
        return edit
