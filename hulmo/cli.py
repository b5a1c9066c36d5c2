"""The command line."""

import argparse
import json
import pathlib
import signal
import sys
from collections.abc import Callable
from typing import TYPE_CHECKING, NoReturn

import hulmo
from hulmo.core import kernel_cache
from hulmo.core.errors import FileProblem, HulmoError, InvalidInput
from hulmo.core.progress import Progress

if TYPE_CHECKING:
    from hulmo.core.project import Project
    from hulmo.render.camera import Camera
    from hulmo.render.still import Stills

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
    from hulmo.app.start import start

    return start(None if options.file is None else pathlib.Path(options.file))


def _demo(options: argparse.Namespace) -> int:
    from hulmo.demo import DEMOS, demo_file

    if options.list:
        for name, text in DEMOS.items():
            print(f"{name}: {text}")
        return 0
    file = demo_file(options.name)
    from hulmo.app.start import start

    return start(file, as_copy=True)


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
    from hulmo.core.recipe import read_recipe, run_recipe

    out = _project_path(options.output)
    commands = read_recipe(pathlib.Path(options.recipe))
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
        print(f"  {body.name}: {faults_text(faults(project, body, progress))}")
    return 0


def _info(options: argparse.Namespace) -> int:
    from hulmo.core.describe import as_text, describe
    from hulmo.core.io.project_file import open_project

    figures = describe(open_project(pathlib.Path(options.file)), _progress())
    print(json.dumps(figures, indent=1) if options.json else as_text(figures))
    return 0


def _export(options: argparse.Namespace) -> int:
    from hulmo.core.io.exporters import exporter_for
    from hulmo.core.io.project_file import open_project
    from hulmo.core.setting import complete

    out = pathlib.Path(options.output)
    exporter = exporter_for(out)
    given = {"colour": options.colour} if options.colour else {}
    values = complete(exporter.settings, given, f"export to .{exporter.ending}")
    progress = _progress()
    exporter.write(open_project(pathlib.Path(options.file)), out, values, progress)
    print(f"{out}: {out.stat().st_size:,} bytes")
    return 0


def _render(options: argparse.Namespace) -> int:
    from hulmo.core.io.exr import write_exr
    from hulmo.core.io.png import write_png
    from hulmo.core.io.project_file import open_project
    from hulmo.render.camera_path import flight, turn
    from hulmo.render.still import Stills

    signal.signal(signal.SIGTERM, signal.default_int_handler)  # what is half-written is taken away

    out = pathlib.Path(options.output)
    if out.suffix.lower() != ".png":
        raise InvalidInput(f"{out}: a still is written as .png")
    if not 1 <= options.samples <= 8:
        raise InvalidInput(f"--samples {options.samples}: it must lie between 1 and 8")
    if options.turn and options.flight:
        raise InvalidInput("--turn and --flight: take one of them")
    project = open_project(pathlib.Path(options.file))
    size = _size(options.size or _usual_size(options, project))
    with Stills(project, options.show) as stills:
        cameras = [_camera_of(options, stills)]
        if options.turn:
            cameras = turn(cameras[0], options.turn)
        elif options.flight:
            cameras = flight(tuple(project.viewpoints), options.flight, stills.bounds)
        for number, camera in enumerate(cameras, start=1):
            digits = max(3, len(str(len(cameras))))
            path = out if len(cameras) == 1 else out.with_name(f"{out.stem}-{number:0{digits}}.png")
            progress = Progress(_teller(options.progress, number - 1, len(cameras)))
            taken = stills.take(camera, size, options.samples, progress, options.channels)
            write_png(path, taken.picture)
            print(f"{path}: {size[0]} x {size[1]}, {options.show}", flush=True)
            if options.depth:
                picture, told, step = taken.depth_image()
                beside = path.with_name(f"{path.stem}.depth.png")
                write_png(beside, picture, told)
                print(f"{beside}: {step:.6g} m to a step of grey", flush=True)
            if options.channels:
                beside = path.with_suffix(".exr")
                write_exr(beside, taken.channels, "N: east, up, south; Z: metres ahead of the eye")
                print(f"{beside}: {', '.join(taken.channels)}", flush=True)
    return 0


def _usual_size(options: argparse.Namespace, project: "Project") -> str:
    # that of a viewpoint which says how its pictures are shaped
    views = [] if options.eye else [view for view in project.viewpoints if options.view in ("", view.name)]
    return f"1280x{round(1280 / views[0].ratio)}" if views and views[0].ratio else "1280x800"


def _bake(options: argparse.Namespace) -> int:
    from hulmo.core.bake.maps import MAPS
    from hulmo.core.commands.uv import uv_column
    from hulmo.core.io.glb_baked import BakedMaterial, baked_document
    from hulmo.core.io.map_file import BITS, KINDS, exact_shares, write_map
    from hulmo.core.io.project_file import open_project
    from hulmo.render.bake import bake

    signal.signal(signal.SIGTERM, signal.default_int_handler)
    folder = pathlib.Path(options.output)
    if not folder.is_dir():
        raise FileProblem(f"{folder}: there is no such folder; make it first")
    if options.kind not in KINDS or options.bits not in BITS:
        raise InvalidInput(f"--kind is one of {', '.join(KINDS)}, --bits 8 or 16")
    maps = [name.strip() for name in options.maps.split(",") if name.strip()]
    if options.glb and ("base_colour" not in maps or options.uv):
        raise InvalidInput("--glb needs base_colour among the maps, and the first set of UV")
    project = open_project(pathlib.Path(options.file))
    bodies = [project.body_named(options.body, "bake")] if options.body else list(project.bodies)
    column = uv_column(options.uv, "bake")
    if not options.body:
        bodies = [body for body in bodies if column in body.corners.slots]
    if not bodies:
        raise InvalidInput("bake: no body of the project has UV; lay it or unwrap one first")
    fine = project.body_named(options.fine, "bake") if options.fine else None
    delivered: dict[str, BakedMaterial] = {}
    for number, body in enumerate(bodies):
        tell = _teller(options.progress, number, len(bodies))
        baked = bake(
            project,
            body,
            maps,
            options.size,
            Progress(tell),
            options.samples,
            options.margin,
            column,
            fine,
            options.reach,
            options.rays,
        )
        if options.glb:
            found = {name: baked.images.get(name) for name in ("normal", "roughness", "occlusion")}
            delivered[body.name] = BakedMaterial(baked.images["base_colour"], **found)
        shares = [name for name in baked.images if name.startswith("weights_")]
        if shares and options.kind != "exr":
            exact = exact_shares([baked.images[name] for name in shares], options.bits)
            baked.images.update(zip(shares, exact, strict=True))
        for name, values in baked.images.items():
            what = MAPS["weights" if name in shares else name]
            kind = "exr" if what.figures and options.kind == "png" else options.kind
            path = folder / f"{body.name.replace('/', '-')}.{name}.{kind}"
            write_map(path, values, what, options.bits)
            print(f"{path}: {options.size} x {options.size}", flush=True)
        print(
            f"{body.name}: {baked.reached:,} texels reached, {baked.filled:,} filled, {baked.mirrored:,} mirrored triangles, "
            f"{baked.twice:,} texels under several triangles"
            + (f", {baked.missed:,} places missed {fine.name}" if fine is not None else ""),
            flush=True,
        )
    if options.glb:
        from hulmo.core.io.safe_write import safe_write

        out = pathlib.Path(options.glb)
        data = baked_document(project, delivered)
        with safe_write(out) as file:
            file.write(data)
        print(f"{out}: {len(data):,} bytes", flush=True)
    return 0


def _camera_of(options: argparse.Namespace, stills: "Stills") -> "Camera":
    from hulmo.core.dress.viewpoint import Viewpoint, check_viewpoint
    from hulmo.render.camera import Camera

    if not options.eye and not options.target:
        return stills.camera(options.view)
    if options.view:
        raise InvalidInput("--view and --eye: take one of them")
    view = Viewpoint("eye", _place(options.eye, "--eye"), _place(options.target, "--target"), options.field)
    check_viewpoint(view, "--eye")
    return Camera.from_viewpoint(view, stills.bounds)


def _place(text: str, name: str) -> tuple[float, float, float]:
    try:
        x, y, z = (float(part) for part in text.split(","))
    except ValueError:
        raise InvalidInput(f"{name} {text!r}: write three numbers as 10,2.5,-4") from None
    return x, y, z


def _teller(wanted: bool, before: int, count: int) -> Callable[[float, str], None]:
    # says which share of so many pictures is drawn, while the next one is
    def tell(share: float, what: str) -> None:
        if wanted:
            print(f"progress {(before + share) / count:.4f}", flush=True)

    return tell


def _bench(options: argparse.Namespace) -> int:
    from hulmo.bench import run_benchmarks

    results = run_benchmarks(None if options.json else print, largest=options.largest)
    if options.json:
        print(json.dumps(results, indent=1))
    return 0


def _size(text: str) -> tuple[int, int]:
    width, _, height = text.partition("x")
    if not (width.isdigit() and height.isdigit()):
        raise InvalidInput(f"size {text!r} is not of the form 1280x800")
    return int(width), int(height)


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
        "--most", type=int, default=1_500_000, metavar="VERTICES", help="vertices it may make; 1,500,000 unless said"
    )


def _declare_info(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file")
    parser.add_argument("--json", action="store_true")


def _declare_export(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file")
    parser.add_argument("-o", "--output", required=True, metavar="OUT.{glb,ply}")
    parser.add_argument("--colour", metavar="mean|weights", help="glb: what the vertex colour holds")


def _declare_render(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file")
    parser.add_argument("-o", "--output", required=True, metavar="OUT.png")
    parser.add_argument("--size", default="", metavar="WIDTHxHEIGHT", help="1280x800; or as the viewpoint says")
    parser.add_argument("--view", default="", help="viewpoint by name")
    parser.add_argument(
        "--samples", type=int, default=2, metavar="N", help="samples along each side of a pixel, 1 to 8"
    )
    parser.add_argument("--depth", action="store_true", help="write OUT.depth.png too, 16 bits of grey")
    parser.add_argument(
        "--channels",
        action="store_true",
        help="write OUT.exr too: linear light, distance, normals, water, prop numbers, ground shares",
    )
    parser.add_argument("--eye", default="", metavar="X,Y,Z", help="look from there, metres; with --target")
    parser.add_argument("--target", default="", metavar="X,Y,Z", help="what is looked at")
    parser.add_argument("--field", type=float, default=40.0, metavar="DEGREES", help="field of view with --eye")
    parser.add_argument("--progress", action="store_true", help="say how much is done, from 0 to 1")
    parser.add_argument("--turn", type=int, default=0, metavar="N", help="N numbered pictures once round the target")
    parser.add_argument(
        "--flight", type=int, default=0, metavar="N", help="N numbered pictures from viewpoint to viewpoint"
    )
    parser.add_argument(
        "--show",
        default="lit",
        metavar="LOOK",
        help="lit, ground, form, mesh, height, slope, curvature, stretch, weight, dominant, hand, crowd, "
        "coarse, checker, density",
    )


def _declare_bake(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("file")
    parser.add_argument("-o", "--output", required=True, metavar="DIR", help="folder for the images")
    parser.add_argument("--body", default="", help="by name; all with UV where it is left out")
    parser.add_argument("--size", type=int, default=2048, metavar="N", help="texels a side, 16 to 8192")
    parser.add_argument("--samples", type=int, default=1, metavar="N", help="along each side of a texel, 1 to 4")
    parser.add_argument("--margin", type=int, default=16, metavar="N", help="texels around charts that are filled")
    parser.add_argument(
        "--maps", default="base_colour,normal,roughness", metavar="NAMES",
        help="base_colour, normal, normal_object, roughness, weights, dominant, tint, slope, position, occlusion, height, "
        "curvature",
    )  # fmt: skip
    parser.add_argument("--kind", default="png", metavar="png|tiff|exr")
    parser.add_argument("--bits", type=int, default=8, metavar="8|16", help="of PNG and TIFF")
    parser.add_argument(
        "--from", dest="fine", default="", metavar="BODY", help="bake the surface of this finer body onto it"
    )
    parser.add_argument(
        "--reach", type=float, default=0.0, metavar="M", help="how far off that may lie; 0: a twentieth of its size"
    )
    parser.add_argument(
        "--glb", default="", metavar="OUT.glb", help="write a glTF with the images as its materials, too"
    )
    parser.add_argument("--rays", type=int, default=64, metavar="N", help="for occlusion")
    parser.add_argument("--uv", default="", metavar="SET", help="set of texture coordinates; the first where left out")
    parser.add_argument("--progress", action="store_true", help="say how much is done, from 0 to 1")


def _declare_bench(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("--json", action="store_true")
    parser.add_argument(
        "--largest", type=int, default=4_000_000, metavar="TRIANGLES", help="largest body that is measured"
    )


COMMANDS = {
    "open": (_open, "open the window", _declare_open),
    "demo": (_demo, "open the window on a demo project", _declare_demo),
    "new": (_new, "make a project with one base form", _declare_new),
    "run": (_run_recipe, "apply a recipe", _declare_run),
    "info": (_info, "say what a project holds", _declare_info),
    "export": (_export, "write an exchange file", _declare_export),
    "render": (_render, "write a still picture", _declare_render),
    "bake": (_bake, "write images of what lies on bodies", _declare_bake),
    "bench": (_bench, "measure speed and memory", _declare_bench),
}


def run() -> NoReturn:
    """Console script."""
    sys.exit(main())


if __name__ == "__main__":
    run()
