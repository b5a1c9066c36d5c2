"""Runs tests and closes with a line that counts them: python -m tests [unittest names].

Modules run side by side, one process each, on all cores; those that take longest begin first.
"""

import os
import pathlib
import re
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor

ROOT = pathlib.Path(__file__).parent

LONG = (
    "app.", "reference.test_receiver", "reference.test_topology", "core.test_trust", "core.test_strokes", "core.test_growth",
    "core.test_fuzz", "reference.test_strokes", "render.",
)  # fmt: skip
"""How names of modules begin that take long."""

COUNTS = re.compile(r"^Ran (\d+) tests? in", re.M)
PARTS = re.compile(r"(failures|errors|skipped|unexpected successes)=(\d+)")


def modules(names: list[str]) -> list[str]:
    """What to run side by side: the names given, with packages taken apart into their modules."""
    out = []
    for name in names or ["tests"]:
        folder = ROOT.parent / name.replace(".", "/")
        if folder.is_dir():
            files = sorted(folder.rglob("test_*.py"))
            out += [".".join(file.relative_to(ROOT.parent).with_suffix("").parts) for file in files]
        else:
            out.append(name)
    place = {prefix: i for i, prefix in enumerate(LONG)}
    return sorted(
        out, key=lambda name: min((at for p, at in place.items() if name[6:].startswith(p)), default=len(LONG))
    )


def run(name: str) -> tuple[str, int, int, int, str]:
    """Name, good, bad and skipped tests of a module, and what it printed."""
    began = time.monotonic()
    done = subprocess.run(
        [sys.executable, "-m", "unittest", "-v", name], capture_output=True, text=True, check=False, cwd=ROOT.parent
    )
    text = done.stdout + done.stderr
    ran = sum(int(count) for count in COUNTS.findall(text))
    parts = {key: int(value) for key, value in PARTS.findall(text.rsplit("Ran ", 1)[-1])}
    bad = sum(parts.get(key, 0) for key in ("failures", "errors", "unexpected successes"))
    if done.returncode and not bad:
        bad = 1  # it ended in the middle, or could not be loaded
    skipped = parts.get("skipped", 0)
    text = f"== {name}, {time.monotonic() - began:.0f} s\n{text}"
    return name, max(0, ran - bad - skipped), bad, skipped, text


def main() -> int:
    """Exit status."""
    good = bad = skipped = 0
    failed = []
    with ThreadPoolExecutor(max(1, os.cpu_count() or 1)) as pool:
        for name, passed, wrong, passed_over, text in pool.map(run, modules(sys.argv[1:])):
            print(text, flush=True)
            good, bad, skipped = good + passed, bad + wrong, skipped + passed_over
            failed += [name] if wrong else []
    for name in failed:
        print(f"failed: {name}")
    print(f"{good} passed, {bad} failed, {skipped} skipped", flush=True)
    return int(bool(bad) or good == 0)


if __name__ == "__main__":
    sys.exit(main())
