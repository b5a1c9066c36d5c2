"""What `hulmo bench` measures. Every figure stands beside a floor or a limit measured or computed in the same run."""

from collections.abc import Callable
from typing import Any

from hulmo.bench.bake import bench_bake
from hulmo.bench.bandwidth import bandwidth
from hulmo.bench.borders import bench_borders
from hulmo.bench.by_hand import bench_by_hand
from hulmo.bench.deliver import bench_deliver
from hulmo.bench.down import bench_down
from hulmo.bench.dress import bench_dress
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

Report = Callable[[str], None] | None


def run_benchmarks(report: Report, largest: int = 4_000_000) -> dict[str, Any]:
    """Measure everything.

    Parameters
    ----------
    report : callable(str) or None
        Gets one line for each figure as it comes.
    largest : int
        Triangles of the largest body.

    Returns
    -------
    dict
        The figures, as `hulmo bench --json` prints them.
    """
    say = report or (lambda _: None)
    speed = bandwidth()
    say(f"memory bandwidth of this run: {speed / 1e9:.1f} GB/s (copy of a large array, read and write counted)")
    return {
        "bandwidth_bytes_per_s": round(speed),
        "strokes": bench_strokes(say, speed, largest),
        "brushes": bench_brushes(say, speed, largest),
        "grounds": bench_grounds(say, speed, largest),
        "growth": bench_growth(say, largest),
        "reliefs": bench_reliefs(say, speed, min(1_000_000, largest)),
        "weather": bench_weather(say, min(1_000_000, largest)),
        "by_hand": bench_by_hand(say, min(2_000_000, largest)),
        "down": bench_down(say, min(2_000_000, largest)),
        "borders": bench_borders(say, min(2_000_000, largest)),
        "dress": bench_dress(say, min(1_000_000, largest)),
        "bake": bench_bake(say, min(1_000_000, largest)),
        "deliver": bench_deliver(say, min(500_000, largest)),
        "lines": bench_lines(say, min(1_000_000, largest)),
        "topology": bench_topology(say, largest),
        "memory": bench_memory(say),
        "files": bench_files(say, speed),
        "journal": bench_journal(say),
        "startup": bench_startup(say),
        "hand": bench_hand(say),
    }
