"""The command line."""

import argparse
import gc
import json
import pathlib
import sys
from typing import NoReturn

import hulmo
from hulmo.cli_batch import batch, declare_batch
from hulmo.cli_deliver import check, declare_check, declare_deliver, declare_profiles, deliver, profiles
from hulmo.cli_images import bake_images, declare_bake, declare_images, declare_render, render, write_images
from hulmo.cli_receive import declare_receive, receive
from hulmo.core import kernel_cache
from hulmo.core.errors import FileProblem, HulmoError, InvalidInput
from hulmo.core.progress import Progress

LOOKED_OVER = 10_000_000
"""Triangles of a body up to which what a recipe has made is looked over by Mesh care."""

FORM_OPTIONS = ("size", "depth", "radius", "height", "edge")


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        raise InvalidInput(f"{message}; see {self.prog} --help")


def main(arguments: list[str] | None = None) -> int:
    """Run a command; returns the exit status (0 good, 2 a problem the user can mend)."""
    words = sys.argv[1:] if arguments is None else arguments
    try:
        return _run(words)
    except HulmoError as error:
        print(f"hulmo: {error}", file=sys.stderr)
        return 2
    except MemoryError:
        print("hulmo: not enough memory for this; use fewer vertices or a larger machine", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        print("hulmo: stopped; nothing was written", file=sys.stderr)
        return 130
    except BrokenPipeError:
        return 0


def _run(words: list[str]) -> int:
    parser = _parser()
    if words and not words[0].startswith("-") and words[0] not in COMMANDS:
        words = ["open", *words]
    options = parser.parse_args(words or ["open"])
    kernel_cache.prepare()
    return int(COMMANDS[options.command][0](options) or 0)


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="hulmo", description="Sculpt, paint and deliver free-form ground.")
    parser.add_argument("--version", action="version", version=f"Hulmo {hulmo.__version__}")
    commands = parser.add_subparsers(dest="command", metavar="COMMAND", parser_class=_Parser)
    for name, (_, text, declare) in COMMANDS.items():
        declare(commands.add_parser(name, help=text, description=text))
    return parser


def _open(options: argparse.Namespace) -> int:
    return _window(None if options.file is None else pathlib.Path(options.file))


def _demo(options: argparse.Namespace) -> int:
    from hulmo.demo import DEMOS, demo_file

    if options.list:
        for name, text in DEMOS.items():
            print(f"{name}: {text}")
        return 0
    file = demo_file(options.name)
    return _window(file, as_copy=True)


def _window(file: pathlib.Path | None, as_copy: bool = False) -> int:
    # what is imported stays; looked through for garbage again and again it takes a sixth of all imports, and more later
    gc.disable()
    from hulmo.app.start import start

    gc.freeze()
    gc.enable()
    return start(file, as_copy)


def _new(options: argparse.Namespace) -> int:
    from hulmo.core.commands import AddBody, SetName
    from hulmo.core.commands.add_body import checked_form
    from hulmo.core.history import History
    from hulmo.core.io.project_file import save_project
    from hulmo.core.project import Project

    out = _project_path(options.output)
    given = {name: getattr(options, name) for name in FORM_OPTIONS if getattr(options, name) is not None}
    form, _, counts = checked_form(options.form, given, "new")
    history = History(Project())
    progress = _progress()
    history.do(SetName(out.stem))
    history.do(AddBody(form.name, given), progress)
    save_project(history.project, out, progress)
    print(f"{out}: {form.label}, {counts.vertices:,} vertices, {counts.triangles:,} triangles")
    return 0


def _run_recipe(options: argparse.Namespace) -> int:
    from hulmo.core.commands import ImportBody
    from hulmo.core.describe import faults, faults_text
    from hulmo.core.history import History
    from hulmo.core.io.project_file import open_project, save_project
    from hulmo.core.project import Project
    from hulmo.core.recipe import read_recipe, run_recipe, variables

    out = _project_path(options.output)
    commands = read_recipe(pathlib.Path(options.recipe), variables(options.set))
    project = Project(out.stem) if options.input is None else open_project(pathlib.Path(options.input))
    progress = _progress()
    labels = run_recipe(History(project, memory_cap=0), commands, options.recipe, progress, options.most)
    save_project(project, out, progress, small=options.small)
    vertices = sum(body.vertices.live_count for body in project.bodies)
    print(f"{out}: {len(commands)} commands, {len(project.bodies)} bodies, {vertices:,} vertices")
    for command, label in zip(commands, labels, strict=True):
        if isinstance(command, ImportBody):
            print(f"  {label}")
    for body in project.bodies:
        if body.corners.live_count > LOOKED_OVER:
            print(f"  {body.name}: not looked over by Mesh care, which takes long; hulmo info --care {out} does")
        else:
            print(f"  {body.name}: {faults_text(faults(project, body, progress))}")
    return 0


def _info(options: argparse.Namespace) -> int:
    from hulmo.core.describe import as_text, describe
    from hulmo.core.io.project_file import open_project

    figures = describe(open_project(pathlib.Path(options.file)), _progress(), options.care)
    print(json.dumps(figures, indent=1) if options.json else as_text(figures))
    return 0


def _export(options: argparse.Namespace) -> int:
    from hulmo.core.io.exporters import exporter_for
    from hulmo.core.io.project_file import open_project
    from hulmo.core.setting_words import from_words

    out = pathlib.Path(options.output)
    exporter = exporter_for(out)
    given = [f"colour={options.colour}"] if options.colour else []
    values = from_words(exporter.settings, [*given, *options.set], f"export to .{exporter.ending}")
    progress = _progress()
    exporter.write(open_project(pathlib.Path(options.file)), out, values, progress)
    print(f"{out}: {out.stat().st_size:,} bytes")
    return 0


def _bench(options: argparse.Namespace) -> int:
    from hulmo.bench import run_benchmarks

    results = run_benchmarks(
        None if options.json else print,
        largest=options.largest,
        only=[name for name in options.only.split(",") if name],
    )
    if options.json:
        print(json.dumps(results, indent=1))
    return 0


def _project_path(text: str) -> pathlib.Path:
    path = pathlib.Path(text)
    if path.suffix != ".hulmo":
        raise InvalidInput(f"{path}: a project file ends in .hulmo")
    if not path.absolute().parent.is_dir():
        raise FileProblem(f"{path}: the folder does not exist; choose another one")
    return path


def _progress() -> Progress:
    if not sys.stderr.isatty():
        return Progress()

    def show(share: float, what: str) -> None:
        end = "\r\033[K" if share >= 1.0 else ""
        print(f"\r\033[K{100 * share:3.0f} % {what}{end}", end="", file=sys.stderr, flush=True)

    return Progress(show)


def _declare_open(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file", nargs="?", help="project file")


def _declare_demo(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("name", nargs="?", default="tern-skerry")
    parser.add_argument("--list", action="store_true", help="name the demos")


def _declare_new(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("form", help="sheet, disc, column, icosphere, box_sphere or block")
    for name in FORM_OPTIONS:
        parser.add_argument(f"--{name}", type=float, metavar="M", help="metres")
    parser.add_argument("-o", "--output", required=True, metavar="OUT.hulmo")


def _declare_run(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("recipe", metavar="RECIPE.json")
    parser.add_argument("-i", "--input", metavar="IN.hulmo", help="project to start from")
    parser.add_argument("-o", "--output", required=True, metavar="OUT.hulmo")
    parser.add_argument("--small", action="store_true", help="compress the tables (slower)")
    parser.add_argument(
        "--set", action="append", default=[], metavar="NAME=VALUE", help="what stands for ${NAME} in the recipe"
    )
    parser.add_argument(
        "--most", type=int, default=1_500_000, metavar="VERTICES", help="vertices it may make; 1,500,000 unless said"
    )


def _declare_info(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file")
    parser.add_argument("--json", action="store_true")
    parser.add_argument("--care", action="store_true", help="also what Mesh care finds, which takes longer")


def _declare_export(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file")
    parser.add_argument("-o", "--output", required=True, metavar="OUT.{glb,ply}")
    parser.add_argument("--colour", metavar="mean|weights", help="glb: what the vertex colour holds")
    parser.add_argument(
        "--set",
        action="append",
        default=[],
        metavar="NAME=VALUE",
        help="a setting of the format; see docs/settings.md",
    )


def _declare_bench(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--json", action="store_true")
    parser.add_argument(
        "--largest", type=int, default=4_000_000, metavar="TRIANGLES", help="largest body that is measured"
    )
    parser.add_argument("--only", default="", metavar="NAMES", help="parts by name: strokes,deliver")


COMMANDS = {
    "open": (_open, "open the window", _declare_open),
    "demo": (_demo, "open the window on a demo project", _declare_demo),
    "new": (_new, "make a project with one base form", _declare_new),
    "run": (_run_recipe, "apply a recipe", _declare_run),
    "info": (_info, "say what a project holds", _declare_info),
    "export": (_export, "write an exchange file", _declare_export),
    "render": (render, "write a still picture", declare_render),
    "bake": (bake_images, "write images of what lies on bodies", declare_bake),
    "check": (check, "say what would go wrong with a delivery", declare_check),
    "deliver": (deliver, "write a delivery by a profile", declare_deliver),
    "receive": (receive, "draw a delivered file by what stands in it", declare_receive),
    "profiles": (profiles, "name the shipped profiles", declare_profiles),
    "images": (write_images, "write what is painted as images", declare_images),
    "batch": (batch, "do many jobs side by side", declare_batch),
    "bench": (_bench, "measure speed and memory", _declare_bench),
}


def run() -> NoReturn:
    """Console script."""
    sys.exit(main())


if __name__ == "__main__":
    run()
