"""Jobs done side by side, each step a process of its own; what is done is noted, so that one can stop and go on."""

import itertools
import json
import pathlib
import time
from collections.abc import Callable
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from dataclasses import dataclass

from hulmo.batch.jobs import Job
from hulmo.batch.places import Here, Place
from hulmo.core.io.safe_write import safe_write


@dataclass(frozen=True)
class Outcome:
    """What became of a job.

    Attributes
    ----------
    name : str
    state : str
        done; kept, when it had been done before; failed; left, when one that it waits for failed.
    seconds : float
    said : str
        The last line that it printed, or why it failed.
    tries : int
    """

    name: str
    state: str
    seconds: float
    said: str
    tries: int = 1


class Batch:
    """Does jobs.

    Parameters
    ----------
    jobs : list of Job
        In an order in which each comes after those it waits for.
    note : Path
        Where it is noted what is done.
    workers : int
    retries : int
    tell : callable(Outcome, done, all)
    place : Place, optional
        Where steps are done; this machine where left out.
    """

    def __init__(
        self, jobs: list[Job], note: pathlib.Path, workers: int, retries: int,
        tell: Callable[[Outcome, int, int], None], place: Place | None = None,
    ) -> None:  # fmt: skip
        self._jobs, self._note, self._workers, self._retries, self._tell = jobs, note, workers, retries, tell
        self._place = Here() if place is None else place
        self._stopping = False

    def run(self) -> list[Outcome]:
        """Do all that has not been done with the same words and files; outcomes in the order of the jobs."""
        noted = self._noted()
        outcomes: dict[str, Outcome] = {}
        left = {job.name: job for job in self._jobs}
        going: dict[Future[Outcome], Job] = {}
        with ThreadPoolExecutor(self._workers) as pool:
            try:
                while left or going:
                    for job in list(left.values()):
                        states = [outcomes[name].state if name in outcomes else "" for name in job.after]
                        if any(state in ("failed", "left") for state in states):
                            del left[job.name]
                            self._add(outcomes, Outcome(job.name, "left", 0.0, "a job that it waits for failed", 0))
                        elif all(states) and len(going) < self._workers:
                            del left[job.name]
                            fresh = any(outcomes[name].state == "done" for name in job.after)
                            if not fresh and noted.get(job.name) == job.key() and self._there(job):
                                self._add(outcomes, Outcome(job.name, "kept", 0.0, "done before", 0))
                            else:
                                going[pool.submit(self._do, job)] = job
                    if not going:
                        continue
                    for future in wait(going, return_when=FIRST_COMPLETED).done:
                        job = going.pop(future)
                        outcome = future.result()
                        if outcome.state == "done":
                            noted[job.name] = job.key()
                            self._write(noted)
                        self._add(outcomes, outcome)
            except BaseException:
                self.stop()
                raise
        return [outcomes[job.name] for job in self._jobs]

    def stop(self) -> None:
        """End what is going on."""
        self._stopping = True
        self._place.stop()

    def _add(self, outcomes: dict[str, Outcome], outcome: Outcome) -> None:
        outcomes[outcome.name] = outcome
        self._tell(outcome, len(outcomes), len(self._jobs))

    def _do(self, job: Job) -> Outcome:
        begin, said, tries = time.monotonic(), "", 0
        while tries <= self._retries:
            tries += 1
            status = 0
            for step in job.steps:
                try:
                    status, said = self._step(job, step)
                except OSError as error:
                    status, said = 2, f"{error.filename or step[0]}: {error.strerror or error}"
                if status and not (status == 1 and step[0] == "check"):
                    break
                if status:
                    return Outcome(job.name, "failed", time.monotonic() - begin, said, tries)
            if not status:
                return Outcome(job.name, "done", time.monotonic() - begin, said, tries)
            if status == 2 or self._stopping:  # said in words: it will not get better
                break
        return Outcome(job.name, "failed", time.monotonic() - begin, said or f"ended with {status}", tries)

    def _step(self, job: Job, step: tuple[str, ...]) -> tuple[int, str]:
        for target in _targets(job, step):  # folders come into being
            (target if not target.suffix else target.parent).mkdir(parents=True, exist_ok=True)
        return self._place.do(job.folder, step)

    def _there(self, job: Job) -> bool:
        return all(target.exists() for step in job.steps for target in _targets(job, step))

    def _noted(self) -> dict[str, str]:
        try:
            told = json.loads(self._note.read_bytes())
        except (OSError, ValueError, RecursionError):
            return {}
        return {str(k): str(v) for k, v in told.items()} if isinstance(told, dict) else {}

    def _write(self, noted: dict[str, str]) -> None:
        with safe_write(self._note) as file:
            file.write(json.dumps(noted, indent=1).encode())


def _targets(job: Job, step: tuple[str, ...]) -> list[pathlib.Path]:
    return [job.folder / word for before, word in itertools.pairwise(step) if before in ("-o", "--output")]
