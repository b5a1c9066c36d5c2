"""What `hulmo bench` measures. Every figure stands beside a floor or a limit measured or computed in the same run."""

from collections.abc import Callable, Collection
from typing import Any

from hulmo.bench.bake import bench_bake
from hulmo.bench.bandwidth import bandwidth
from hulmo.bench.borders import bench_borders
from hulmo.bench.by_hand import bench_by_hand
from hulmo.bench.deliver import bench_deliver
from hulmo.bench.down import bench_down
from hulmo.bench.dress import bench_dress
from hulmo.bench.exports import bench_exports
from hulmo.bench.files import bench_files
from hulmo.bench.grounds import bench_grounds
from hulmo.bench.growth import bench_growth
from hulmo.bench.hand import bench_hand
from hulmo.bench.journal import bench_journal
from hulmo.bench.lines import bench_lines
from hulmo.bench.memory import bench_memory
from hulmo.bench.reliefs import bench_reliefs
from hulmo.bench.startup import bench_startup
from hulmo.bench.strokes import bench_brushes, bench_strokes
from hulmo.bench.topology import bench_topology
from hulmo.bench.weather import bench_weather
from hulmo.core.errors import InvalidInput

Report = Callable[[str], None] | None

PARTS: dict[str, Callable[[Callable[[str], None], float, int], Any]] = {
    "strokes": bench_strokes,
    "brushes": bench_brushes,
    "grounds": bench_grounds,
    "growth": lambda say, speed, largest: bench_growth(say, largest),
    "reliefs": lambda say, speed, largest: bench_reliefs(say, speed, min(1_000_000, largest)),
    "weather": lambda say, speed, largest: bench_weather(say, min(1_000_000, largest)),
    "by_hand": lambda say, speed, largest: bench_by_hand(say, min(2_000_000, largest)),
    "down": lambda say, speed, largest: bench_down(say, min(2_000_000, largest)),
    "borders": lambda say, speed, largest: bench_borders(say, min(2_000_000, largest)),
    "dress": lambda say, speed, largest: bench_dress(say, min(1_000_000, largest)),
    "bake": lambda say, speed, largest: bench_bake(say, min(1_000_000, largest)),
    "deliver": lambda say, speed, largest: bench_deliver(say, min(500_000, largest)),
    "exports": lambda say, speed, largest: bench_exports(say, min(2_000_000, largest)),
    "lines": lambda say, speed, largest: bench_lines(say, min(1_000_000, largest)),
    "topology": lambda say, speed, largest: bench_topology(say, largest),
    "memory": lambda say, speed, largest: bench_memory(say),
    "files": lambda say, speed, largest: bench_files(say, speed),
    "journal": lambda say, speed, largest: bench_journal(say),
    "startup": lambda say, speed, largest: bench_startup(say),
    "hand": lambda say, speed, largest: bench_hand(say),
}
"""What is measured, by name: from the teller, bytes a second that memory moves, and triangles of the largest body."""


def run_benchmarks(report: Report, largest: int = 4_000_000, only: Collection[str] = ()) -> dict[str, Any]:
    """Measure everything, or only some of `PARTS`.

    Parameters
    ----------
    report : callable(str) or None
        Gets one line for each figure as it comes.
    largest : int
        Triangles of the largest body.
    only : names of parts

    Returns
    -------
    dict
        The figures, as `hulmo bench --json` prints them.

    Raises
    ------
    InvalidInput
        No such part.
    """
    strange = sorted(set(only) - PARTS.keys())
    if strange:
        raise InvalidInput(f"bench: there is no part {strange[0]!r}; parts are {', '.join(PARTS)}")
    say = report or (lambda _: None)
    speed = bandwidth()
    say(f"memory bandwidth of this run: {speed / 1e9:.1f} GB/s (copy of a large array, read and write counted)")
    wanted = [name for name in PARTS if not only or name in only]
    return {"bandwidth_bytes_per_s": round(speed)} | {name: PARTS[name](say, speed, largest) for name in wanted}
