"""Writes docs/deliveries.md: every demo in every format and by every shipped profile, with sizes, times and how near the
receiver comes to the canvas."""

import contextlib
import io
import pathlib
import tempfile
import time

from hulmo.cli import main
from hulmo.core.deliver.profile import shipped_profiles
from hulmo.core.io.exporters import EXPORTERS
from hulmo.demo import DEMOS, demo_file

PAGE = pathlib.Path(__file__).resolve().parent.parent / "docs" / "deliveries.md"

SIZE = "640x400"

WAYS = (
    ("glb", ()), ("glb", ("size=quantised",)), ("glb", ("size=compressed",)), ("gltf", ("size=compressed",)), ("usdc", ()),
    ("usdc", ("blend=yes",)), ("usdz", ()), ("mtlx", ()), ("ply", ()), ("obj", ()), ("stl", ()),
)  # fmt: skip
"""Formats, each with its settings."""

HEAD = """# Deliveries of the demos

Made by `tools/make_delivery_table.py`. Megabytes are those of all files that were written; seconds are those of one run on a
machine with two cores, and say no more than which is slower. PSNR is that of `hulmo receive`, which draws the file by what
stands in it, beside the canvas (640 x 400, lit, without shadows); the goal is 45 dB.
"""


def run(*words: str) -> tuple[str, float]:
    """What a command says, and how long it takes."""
    begin, out, err = time.perf_counter(), io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        status = main(list(words))
    if status:
        raise SystemExit(f"{' '.join(words)}: {err.getvalue()}")
    return out.getvalue(), time.perf_counter() - begin


def megabytes(folder: pathlib.Path) -> str:
    """Of all files in a folder."""
    return f"{sum(file.stat().st_size for file in folder.rglob('*') if file.is_file()) / 1e6:.2f}"


def rows_of(demo: str) -> list[str]:
    """The table of one demo."""
    project = str(demo_file(demo))
    out = ["", f"## {demo}", "", "| what | MB | s | PSNR, dB |", "|---|---|---|---|"]
    for ending, settings in WAYS:
        with tempfile.TemporaryDirectory() as name:
            folder = pathlib.Path(name)
            file = folder / f"{demo}.{ending}"
            given = [word for setting in settings for word in ("--set", setting)]
            _, taken = run("export", project, "-o", str(file), *given)
            size, near = megabytes(folder), ""
            if ending in ("glb", "gltf"):
                said, _ = run("receive", str(file), "-o", str(folder / "both.png"), "--size", SIZE, "--beside", project)
                near = said.split(";")[1].split()[0]
            label = f"{EXPORTERS[ending].label}{', ' if settings else ''}{', '.join(settings)}"
            out.append(f"| {label} | {size} | {taken:.1f} | {near} |")
    for profile in shipped_profiles():
        with tempfile.TemporaryDirectory() as name:
            _, taken = run("deliver", project, "--profile", profile, "-o", name)
            files = sum(file.is_file() for file in pathlib.Path(name).rglob("*"))
            out.append(f"| profile `{profile}`, {files} files | {megabytes(pathlib.Path(name))} | {taken:.1f} | |")
    return out


if __name__ == "__main__":
    lines = [HEAD]
    for demo in DEMOS:
        lines += rows_of(demo)
    PAGE.write_text("\n".join(lines) + "\n", encoding="utf-8")
    print(f"wrote {PAGE}")
