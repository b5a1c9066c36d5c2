"""python -m tests.fuzz [--files N] [--commands N] [--seed S] [--minutes M]: the long run; CI does a short one.

Prints every case that escapes, hangs, grows too large, or cannot be saved and opened again, with the file that did it.
"""

import argparse
import logging
import subprocess
import sys
import time
import warnings

from hulmo.core.kernel_cache import prepare
from tests.fuzz.commands import Commands
from tests.fuzz.files import Files

ROUND = 40

EVERY = 2_000


def main() -> int:
    """Exit status: 1 when anything was found."""
    warnings.simplefilter("ignore")
    logging.getLogger("trimesh").setLevel(logging.CRITICAL)
    parser = argparse.ArgumentParser(prog="python -m tests.fuzz")
    parser.add_argument("--files", type=int, default=0)
    parser.add_argument("--commands", type=int, default=0)
    parser.add_argument("--seed", type=int, default=int(time.time()))
    parser.add_argument("--minutes", type=float, default=1e9)
    parser.add_argument("--no-draw", action="store_true")
    options = parser.parse_args()
    if not options.files and not options.commands:
        # both side by side, as the documented long run
        kinds = (["--files", "20000"], ["--commands", "200000"])
        jobs = [
            subprocess.Popen([sys.executable, "-m", "tests.fuzz", *kind, "--seed", str(options.seed)]) for kind in kinds
        ]
        return max(job.wait() for job in jobs)
    prepare()  # otherwise the first case of each kind is as slow as compiling what it needs
    print(f"seed {options.seed}", flush=True)
    end = time.monotonic() + 60 * options.minutes
    found = done = 0
    if options.files:
        files = Files(options.seed, not options.no_draw)
        while done < options.files and time.monotonic() < end:
            problem = files.case()
            done += 1
            if done % EVERY == 0:
                print(f"{done:,} damaged files: {files.counts}, {found} problems", flush=True)
            if problem is not None:
                found += 1
                print(problem, flush=True)
        print(f"{done:,} damaged files: {files.counts}, {found} problems", flush=True)
    if options.commands:
        commands = Commands(options.seed)
        done = 0
        while done < options.commands and time.monotonic() < end:
            problem = commands.round(ROUND)
            done += ROUND
            if done % EVERY == 0:
                print(f"{done:,} random commands: {commands.counts}, {found} problems", flush=True)
            if problem is not None:
                found += 1
                print(problem, flush=True)
                commands = Commands(options.seed + done)
        print(f"{done:,} random commands, {found} problems", flush=True)
    return int(found > 0)


if __name__ == "__main__":
    sys.exit(main())
