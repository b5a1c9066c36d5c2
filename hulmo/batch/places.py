"""Where steps of jobs are done: by processes of this machine, or by the workers of a scheduler."""

import os
import pathlib
import subprocess
import sys
import threading
from typing import Any, Protocol

from hulmo.core.errors import FileProblem

ROOT = pathlib.Path(__file__).resolve().parents[2]

PATIENCE = 15.0
"""Seconds that a scheduler is waited for."""

GONE = -9
"""Exit status of a step whose worker is gone, as of a process that was killed."""

Said = tuple[int, str]
"""Exit status, and the last line that was printed."""


class Place(Protocol):
    """Somewhere to do steps."""

    def do(self, folder: pathlib.Path, step: tuple[str, ...]) -> Said:
        """A step, as words of the command line, from a folder; waits for it."""

    def stop(self) -> None:
        """End what is going on; nothing is begun any more."""

    def close(self) -> None:
        """All is done."""


def words_of(step: tuple[str, ...]) -> tuple[list[str], dict[str, str]]:
    """Command and environment of a step."""
    paths = os.pathsep.join(filter(None, (str(ROOT), os.environ.get("PYTHONPATH", ""))))
    return [sys.executable, "-m", "hulmo", *step], {**os.environ, "PYTHONPATH": paths, "HULMO_WORKERS": "1"}


def last_line(status: int, out: bytes, err: bytes) -> str:
    """Of what a process printed."""
    text = (err if status else out).decode("utf-8", "replace").strip().splitlines()
    return text[-1] if text else ""


class Here:
    """Processes of this machine."""

    def __init__(self) -> None:
        self._running: set[subprocess.Popen[bytes]] = set()
        self._lock = threading.Lock()
        self._stopping = False

    def do(self, folder: pathlib.Path, step: tuple[str, ...]) -> Said:
        """See `Place.do`."""
        words, environment = words_of(step)
        with self._lock:
            if self._stopping:
                return -15, "stopped"
            process = subprocess.Popen(
                words, stdout=subprocess.PIPE, stderr=subprocess.PIPE, cwd=folder, env=environment
            )
            self._running.add(process)
        try:
            out, err = process.communicate()
        finally:
            with self._lock:
                self._running.discard(process)
        return process.returncode, last_line(process.returncode, out, err)

    def stop(self) -> None:
        """See `Place.stop`."""
        with self._lock:
            self._stopping = True
            for process in self._running:
                process.terminate()

    def close(self) -> None:
        """See `Place.close`."""


def step_there(folder: str, step: tuple[str, ...]) -> Said:
    """A step on a worker, which finds the folder under the same name."""
    words, environment = words_of(step)
    try:
        done = subprocess.run(words, capture_output=True, cwd=folder, env=environment, check=False)
    except OSError as error:
        return 2, f"{error.filename or folder}: {error.strerror or error}; workers need the folder under the same name"
    return done.returncode, last_line(done.returncode, done.stdout, done.stderr)


class Cluster:
    """Workers of a scheduler of `dask.distributed`.

    Parameters
    ----------
    address : str
        As tcp://host:8786.

    Raises
    ------
    FileProblem
        There is no scheduler, or it has no workers.
    """

    def __init__(self, address: str) -> None:
        from distributed import Client

        try:
            self._client: Any = Client(address, timeout=PATIENCE, set_as_default=False)
        except (OSError, ValueError, TimeoutError, ImportError) as error:
            raise FileProblem(
                f"{address}: there is no scheduler ({error}); begin one with: dask scheduler --port 8786"
            ) from error
        self._futures: set[Any] = set()
        self._lock = threading.Lock()
        self._stopping = False
        self.workers = sum(self._client.nthreads().values())
        if not self.workers:
            self.close()
            raise FileProblem(f"{address}: this scheduler has no workers; begin some with: dask worker {address}")

    def do(self, folder: pathlib.Path, step: tuple[str, ...]) -> Said:
        """See `Place.do`."""
        with self._lock:
            if self._stopping:
                return -15, "stopped"
            future = self._client.submit(step_there, str(folder), step, pure=False)
            self._futures.add(future)
        try:
            status, said = future.result()
            return int(status), str(said)
        except Exception as error:  # a worker that is gone, or one that has no Hulmo
            return GONE, f"{type(error).__name__}: {str(error).splitlines()[0] if str(error) else ''}"
        finally:
            with self._lock:
                self._futures.discard(future)

    def stop(self) -> None:
        """See `Place.stop`."""
        with self._lock:
            self._stopping = True
            for future in self._futures:
                future.cancel()

    def close(self) -> None:
        """See `Place.close`."""
        self._client.close(timeout=PATIENCE)
