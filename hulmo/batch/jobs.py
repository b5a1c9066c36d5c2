"""A file of jobs: what is to be done, with which variables, after what."""

import hashlib
import itertools
import math
import pathlib
import re
from dataclasses import dataclass
from typing import Any

import msgspec

from hulmo.core.errors import FileProblem, InvalidInput, shown
from hulmo.core.json_text import typed_json
from hulmo.core.there import is_file

MOST, LARGEST = 10_000, 1 << 24
"""Jobs that a file may amount to, and its bytes."""

VERBS = ("run", "new", "export", "deliver", "check", "bake", "render", "images", "receive", "info")
"""What jobs can do."""

NAME = re.compile(r"\{([A-Za-z_][A-Za-z0-9_]*)\}")

Value = str | int | float | bool


class JobEntry(msgspec.Struct, frozen=True, forbid_unknown_fields=True, rename={"with_": "with"}):
    """One entry of a file: as many jobs as its variables have combinations.

    Attributes
    ----------
    name : str
        May hold `{variable}`.
    steps : list of lists of words
        As on the command line, without `hulmo`; words may hold `{variable}` and `{name}`.
    with_ : dict
        Values of each variable.
    after : list of str
        Names of jobs, or of entries, that must be done first.
    """

    name: str
    steps: tuple[tuple[str, ...], ...]
    with_: dict[str, list[Value]] = {}
    after: tuple[str, ...] = ()


class JobsFile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """All of a file.

    Attributes
    ----------
    jobs : list of JobEntry
    retries : int
        Times that a job which ended without a reason is tried again.
    """

    jobs: tuple[JobEntry, ...]
    retries: int = 1


@dataclass(frozen=True)
class Job:
    """One job.

    Attributes
    ----------
    name : str
    steps : tuple of tuple of str
    after : tuple of str
        Names of jobs.
    folder : Path
        From which relative names are taken.
    """

    name: str
    steps: tuple[tuple[str, ...], ...]
    after: tuple[str, ...]
    folder: pathlib.Path

    def key(self) -> str:
        """Changes where anything that the job is made of does: its words, and the files that they name and that are there."""
        mark = hashlib.sha256(msgspec.json.encode((self.name, self.steps)))
        for word in sorted({word for step in self.steps for word in _inputs(step)}):
            path = self.folder / word
            if is_file(path):
                with path.open("rb") as file:
                    mark.update(word.encode() + b"\0" + hashlib.file_digest(file, "sha256").digest())
        return mark.hexdigest()


def _inputs(step: tuple[str, ...]) -> list[str]:
    # words that are not what the step writes
    return [word for before, word in itertools.pairwise(("", *step)) if before not in ("-o", "--output", "--glb")]


def read_jobs(path: pathlib.Path) -> tuple[list[Job], int]:
    """Jobs in an order in which each comes after those it waits for, and how often one is tried again.

    Raises
    ------
    FileProblem
        No such file, or none of jobs.
    InvalidInput
        A job that cannot be, names that clash or are unknown, jobs that wait for each other.
    """
    if not is_file(path) or path.stat().st_size > LARGEST:
        raise FileProblem(f"{path}: there is no such file of jobs")
    found = typed_json(path.read_bytes(), JobsFile, f"{path}: is no file of jobs")
    if not 0 <= found.retries <= 10:
        raise InvalidInput(f"{path}: retries is {found.retries}; it must lie between 0 and 10")
    jobs: dict[str, Job] = {}
    groups: dict[str, list[str]] = {}
    for entry in found.jobs:
        count = math.prod(map(len, entry.with_.values()))
        if count + len(jobs) > MOST:
            raise InvalidInput(f"{path}: more than {MOST:,} jobs; give variables fewer values")
        for chosen in itertools.product(*entry.with_.values()):
            job = _job(path, entry, dict(zip(entry.with_, chosen, strict=True)))
            if job.name in jobs:
                raise InvalidInput(f"{path}: two jobs are named {job.name!r}; put a variable into the name")
            jobs[job.name] = job
            groups.setdefault(entry.name, []).append(job.name)
    return _in_order(path, jobs, groups), found.retries


def _job(path: pathlib.Path, entry: JobEntry, values: dict[str, Value]) -> Job:
    def put(text: str, known: dict[str, Any]) -> str:
        def word(match: re.Match[str]) -> str:
            if match[1] not in known:
                raise InvalidInput(
                    f"{path}: {entry.name}: there is no variable {match[1]!r}; known are {', '.join(known)}"
                )
            return str(known[match[1]])

        return NAME.sub(word, text)

    name = put(entry.name, dict(values))
    if not name or "/" in name or "\\" in name or ".." in name:
        raise InvalidInput(f"{path}: {shown(name)} is no name for a job")
    steps = tuple(tuple(put(word, {**values, "name": name}) for word in step) for step in entry.steps)
    if not steps or any(not step for step in steps):
        raise InvalidInput(f"{path}: {name}: has nothing to do")
    for step in steps:
        if step[0] not in VERBS:
            raise InvalidInput(f"{path}: {name}: cannot do {shown(step[0])}; it must be one of {', '.join(VERBS)}")
    steps = tuple((*step, *_sets(values)) if step[0] == "run" else step for step in steps)
    return Job(
        name,
        steps,
        tuple(put(word, dict(values)) if set(NAME.findall(word)) <= set(values) else word for word in entry.after),
        path.absolute().parent,
    )


def _sets(values: dict[str, Value]) -> list[str]:
    return [word for name, value in values.items() for word in ("--set", f"{name}={value}")]


def _in_order(path: pathlib.Path, jobs: dict[str, Job], groups: dict[str, list[str]]) -> list[Job]:
    waits: dict[str, set[str]] = {}
    for job in jobs.values():
        waits[job.name] = set()
        for word in job.after:
            if word not in jobs and word not in groups:
                raise InvalidInput(f"{path}: {job.name}: waits for {word!r}, and there is no such job")
            waits[job.name] |= {word} if word in jobs else set(groups[word])
    out: list[Job] = []
    while waits:
        free = [name for name, left in waits.items() if not left & waits.keys()]
        if not free:
            raise InvalidInput(f"{path}: these jobs wait for each other: {', '.join(sorted(waits))}")
        for name in free:
            job = jobs[name]
            out.append(Job(job.name, job.steps, tuple(sorted(waits.pop(name))), job.folder))
    return out
