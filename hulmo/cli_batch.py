"""`hulmo batch`: many jobs side by side."""

import argparse
import os
import pathlib
import signal

from hulmo.core.errors import InvalidInput


def batch(options: argparse.Namespace) -> int:
    """1 where a job failed."""
    from hulmo.batch.jobs import read_jobs
    from hulmo.batch.places import Cluster
    from hulmo.batch.work import Batch, Outcome

    signal.signal(signal.SIGTERM, signal.default_int_handler)
    path = pathlib.Path(options.jobs)
    jobs, retries = read_jobs(path)
    cluster = Cluster(options.scheduler) if options.scheduler else None
    workers = options.workers or (cluster.workers if cluster else os.cpu_count() or 1)
    if not 1 <= workers <= 256:
        raise InvalidInput(f"--workers {workers}: it must lie between 1 and 256")

    def tell(outcome: Outcome, done: int, count: int) -> None:
        print(f"{done}/{count}  {outcome.state}  {outcome.name}  {outcome.seconds:.1f} s", flush=True)

    try:
        outcomes = Batch(jobs, path.with_suffix(".done.json"), workers, retries, tell, cluster).run()
    finally:
        if cluster is not None:
            cluster.close()
    wide = max([len(outcome.name) for outcome in outcomes], default=4)
    print(f"{'job':<{wide}}  state   seconds  tries  said")
    for outcome in outcomes:
        print(f"{outcome.name:<{wide}}  {outcome.state:<6}  {outcome.seconds:7.1f}  {outcome.tries:5}  {outcome.said}")
    failed = sum(outcome.state in ("failed", "left") for outcome in outcomes)
    print(f"{len(outcomes) - failed} of {len(outcomes)} jobs done")
    return int(failed > 0)


def declare_batch(parser: argparse.ArgumentParser) -> None:
    """Options of `hulmo batch`."""
    parser.add_argument("jobs", metavar="JOBS.json")
    parser.add_argument("--workers", type=int, default=0, metavar="N", help="side by side; as many as there are cores")
    parser.add_argument(
        "--scheduler", default="", metavar="ADDRESS", help="workers of a dask scheduler instead, as tcp://host:8786"
    )
