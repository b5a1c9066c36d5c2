"""From the command to the first frame of the window."""

import os
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from typing import Any

from hulmo.core.kernel_files import cache_folder

RUNS = 3


def bench_startup(say: Callable[[str], None]) -> dict[str, Any]:
    """Seconds until the demo's first frame is on the screen, best and worst of three; and whether anything was compiled."""
    command = [sys.executable, "-m", "hulmo.cli", "demo"]
    if not os.environ.get("DISPLAY"):
        if shutil.which("xvfb-run") is None:
            say("start of the window: not measured, there is no display and no xvfb-run")
            return {"skipped": "no display"}
        command = ["xvfb-run", "-a", "-s", "-screen 0 1400x900x24", *command]
    times, spent = [], []
    before = _compiled()
    with tempfile.TemporaryDirectory() as home:
        settings = dict.fromkeys(("XDG_CONFIG_HOME", "XDG_DATA_HOME"), home)
        environment = {**os.environ, **settings, "HULMO_EXIT_AFTER_FIRST_FRAME": "1"}
        for _ in range(RUNS):
            start = time.perf_counter()
            done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
            if done.returncode != 0:
                say(f"start of the window: failed ({done.stderr.strip()[-200:]})")
                return {"failed": done.stderr.strip()[-200:]}
            times.append(_first_frame(done.stdout) or time.perf_counter() - start)
            spent.append(_spent(done.stdout))
    new = len(_compiled() - before)
    best = spent[times.index(min(times))]
    parts = ", ".join(f"{name} {value:.2f}" for name, value in best.items())
    say(
        f"first frame of the demo: {min(times):.2f} to {max(times):.2f} s (limit 1.5); of the best, {parts}; "
        f"{new} kernels compiled"
    )
    return {"first_frame_s": [round(value, 3) for value in sorted(times)], "spent_s": best, "compiled": new}


def _first_frame(text: str) -> float | None:
    lines = [line for line in text.splitlines() if line.startswith("first frame after ")]
    return float(lines[0].split()[3]) if lines else None


def _spent(text: str) -> dict[str, float]:
    # where the time went: seconds by the names of steps
    line = next((line for line in text.splitlines() if line.startswith("first frame after ")), "")
    words = [part.rsplit(" ", 1) for part in line.partition(": ")[2].split(", ") if part]
    return {name: float(value) for name, value in words}


def _compiled() -> set[str]:
    return {str(path) for path in cache_folder().rglob("*.nb?")}
