"""Reading USD in a process of its own: whatever a damaged file makes of the library, this one goes on."""

import pathlib
import pickle
import subprocess
import sys
import tempfile

from hulmo.core.errors import FileProblem
from hulmo.core.io.mesh_parts import Read
from hulmo.core.io.usd_reader import REFUSED

ROOT = pathlib.Path(__file__).resolve().parents[3]

LEAST_SECONDS, BYTES_A_SECOND = 20.0, 1 << 20
"""Time that a file is given: so long, and a second more for so many bytes of it."""

LEAST_BYTES, TIMES = 4 << 30, 40
"""Room that it is given: so much, and so many times its own size."""


def read_usd(path: pathlib.Path, apart: bool = False) -> Read:
    """All meshes of a stage at the time of its default, in metres with +Y up, each by itself.

    Raises
    ------
    FileProblem
        No stage, damaged, or one that takes more time or memory than its size accounts for.
    """
    del apart
    size = path.stat().st_size
    room = LEAST_BYTES + TIMES * size

    with tempfile.TemporaryDirectory(prefix="hulmo-usd-") as folder:
        made = pathlib.Path(folder) / "read"
        words = [sys.executable, "-m", "hulmo.core.io.usd_reader", str(path.absolute()), str(made), str(room)]
        try:
            done = subprocess.run(
                words, capture_output=True, cwd=ROOT, timeout=LEAST_SECONDS + size / BYTES_A_SECOND,
                check=False,
            )  # fmt: skip
        except subprocess.TimeoutExpired as error:
            raise FileProblem(f"{path}: takes far longer than its size accounts for; it is damaged") from error
        if done.returncode == REFUSED:
            raise FileProblem(done.stdout.decode("utf-8", "replace").strip())
        if done.returncode or not made.is_file():
            raise FileProblem(
                f"{path}: no USD that can be read, or damaged; open it where it was made and export it anew"
            )
        with made.open("rb") as file:
            found: Read = pickle.load(file)
    return found
