"""What of the command line makes images: stills and baking."""

import argparse
import pathlib
import signal
from collections.abc import Callable
from typing import TYPE_CHECKING

from hulmo.cli_size import place_of, size_of
from hulmo.core.errors import FileProblem, InvalidInput
from hulmo.core.progress import Progress

if TYPE_CHECKING:
    from hulmo.core.bake.bake import Baked
    from hulmo.core.mesh.body import Body
    from hulmo.core.project import Project
    from hulmo.render.camera import Camera
    from hulmo.render.still import Stills


def render(options: argparse.Namespace) -> int:
    """`hulmo render`: stills, turns and flights."""
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
    size = size_of(options.size or _usual_size(options, project))
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


def bake_images(options: argparse.Namespace) -> int:
    """`hulmo bake`: images of what lies on bodies."""
    from hulmo.core.bake.bake import Baked, bake, together
    from hulmo.core.bake.without_relief import without_relief
    from hulmo.core.io.glb_baked import BakedMaterial, baked_document
    from hulmo.core.io.map_file import BITS, KINDS
    from hulmo.core.io.project_file import open_project
    from hulmo.core.uv.sets import uv_column

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
    if options.relief and fine is not None:
        raise InvalidInput("--relief bakes the body's own layers; leave out --from")
    delivered: dict[str, BakedMaterial] = {}
    parts: list[Baked] = []
    for number, body in enumerate(bodies):
        tell = _teller(options.progress, number, len(bodies))
        target = body
        if options.relief:  # its layers are baked onto its form, which is what a glTF gets
            target, fine = without_relief(body), body
            project.bodies = tuple(target if entry is body else entry for entry in project.bodies)
        baked = bake(
            project,
            target,
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
        if options.atlas:
            parts.append(baked)
        else:
            _write_baked(baked, body.name, options, fine)
    if options.atlas:
        whole = together(parts)
        _write_baked(whole, options.atlas, options, fine)
        if options.glb:
            found = {name: whole.images.get(name) for name in ("normal", "roughness", "occlusion")}
            material = BakedMaterial(whole.images["base_colour"], **found)
            delivered = {body.name: material for body in bodies}
    if options.glb:
        from hulmo.core.io.safe_write import safe_write

        out = pathlib.Path(options.glb)
        data = baked_document(project, delivered)
        with safe_write(out) as file:
            file.write(data)
        print(f"{out}: {len(data):,} bytes", flush=True)
    return 0


def _write_baked(baked: "Baked", name: str, options: argparse.Namespace, fine: "Body | None") -> None:
    from concurrent.futures import ThreadPoolExecutor

    from hulmo.core.bake.maps import MAPS
    from hulmo.core.io.map_file import exact_shares, write_map
    from hulmo.core.workers import WORKERS

    shares = [each for each in baked.images if each.startswith("weights_")]
    if shares and options.kind != "exr":
        exact = exact_shares([baked.images[each] for each in shares], options.bits)
        baked.images.update(zip(shares, exact, strict=True))

    def write(each: str) -> pathlib.Path:
        what = MAPS["weights" if each in shares else each]
        kind = "exr" if what.figures and options.kind == "png" else options.kind
        path = pathlib.Path(options.output) / f"{name.replace('/', '-')}.{each}.{kind}"
        write_map(path, baked.images[each], what, options.bits)
        return path

    with ThreadPoolExecutor(min(WORKERS, 2)) as pool:
        for path in pool.map(write, baked.images):
            print(f"{path}: {options.size} x {options.size}", flush=True)
    print(
        f"{name}: {baked.reached:,} texels reached, {baked.filled:,} filled, {baked.mirrored:,} mirrored triangles, "
        f"{baked.twice:,} texels under several triangles"
        + (f", {baked.missed:,} places missed {fine.name}" if fine is not None else ""),
        flush=True,
    )


def _camera_of(options: argparse.Namespace, stills: "Stills") -> "Camera":
    from hulmo.core.dress.viewpoint import Viewpoint, check_viewpoint
    from hulmo.render.camera import Camera

    if not options.eye and not options.target:
        return stills.camera(options.view)
    if options.view:
        raise InvalidInput("--view and --eye: take one of them")
    view = Viewpoint("eye", place_of(options.eye, "--eye"), place_of(options.target, "--target"), options.field)
    check_viewpoint(view, "--eye")
    return Camera.from_viewpoint(view, stills.bounds)


def _teller(wanted: bool, before: int, count: int) -> Callable[[float, str], None]:
    # says which share of so many pictures is drawn, while the next one is
    def tell(share: float, what: str) -> None:
        if wanted:
            print(f"progress {(before + share) / count:.4f}", flush=True)

    return tell


def declare_render(parser: argparse.ArgumentParser) -> None:
    """Options of `hulmo render`."""
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


def declare_bake(parser: argparse.ArgumentParser) -> None:
    """Options of `hulmo bake`."""
    parser.add_argument("file")
    parser.add_argument("-o", "--output", required=True, metavar="DIR", help="folder for the images")
    parser.add_argument("--body", default="", help="by name; all with UV where it is left out")
    parser.add_argument("--size", type=int, default=2048, metavar="N", help="texels a side, 16 to 8192")
    parser.add_argument("--samples", type=int, default=1, metavar="N", help="along each side of a texel, 1 to 4")
    parser.add_argument("--margin", type=int, default=16, metavar="N", help="texels around charts that are filled")
    parser.add_argument(
        "--maps", default="base_colour,normal,roughness", metavar="NAMES",
        help="base_colour, normal, normal_object, roughness, weights, dominant, tint, slope, position, occlusion, shelter, "
        "contact, missed, height, curvature",
    )  # fmt: skip
    parser.add_argument("--kind", default="png", metavar="png|tiff|exr")
    parser.add_argument("--bits", type=int, default=8, metavar="8|16", help="of PNG and TIFF")
    parser.add_argument(
        "--from", dest="fine", default="", metavar="BODY", help="bake the surface of this finer body onto it"
    )
    parser.add_argument("--relief", action="store_true", help="bake the relief layers onto the body without them")
    parser.add_argument(
        "--reach", type=float, default=0.0, metavar="M", help="how far off that may lie; 0: a twentieth of its size"
    )
    parser.add_argument(
        "--glb", default="", metavar="OUT.glb", help="write a glTF with the images as its materials, too"
    )
    parser.add_argument("--atlas", default="", metavar="NAME", help="one set of images of this name for all bodies")
    parser.add_argument("--rays", type=int, default=64, metavar="N", help="for occlusion")
    parser.add_argument("--uv", default="", metavar="SET", help="set of texture coordinates; the first where left out")
    parser.add_argument("--progress", action="store_true", help="say how much is done, from 0 to 1")


def write_images(options: argparse.Namespace) -> int:
    """`hulmo images`: what is painted, for image editors."""
    from hulmo.core.io.paint_out import paint_out
    from hulmo.core.io.project_file import open_project

    project = open_project(pathlib.Path(options.file))
    bodies = [project.body_named(options.body, "images")] if options.body else list(project.bodies)
    if not bodies:
        raise InvalidInput("images: the project has no body")
    for body in bodies:
        out = paint_out(
            project, body.name, pathlib.Path(options.output), options.what, Progress(), options.by, options.uv, options.size,
            options.bits, options.layer, options.low, options.high,
        )  # fmt: skip
        for path in (*out.files, out.note):
            print(path)
        print(
            f"{body.name}: {out.crowded} vertices share a texel with another value, {out.beyond} lie beyond the range"
        )
    return 0


def declare_images(parser: argparse.ArgumentParser) -> None:
    """Options of `hulmo images`."""
    parser.add_argument("file")
    parser.add_argument("-o", "--output", required=True, metavar="DIR", help="folder for the images and their note")
    parser.add_argument("--body", default="", help="by name; all where it is left out")
    parser.add_argument("--what", default="grounds", metavar="grounds|guard|tint|relief")
    parser.add_argument("--by", default="uv", metavar="uv|above", help="how they lie")
    parser.add_argument("--uv", default="", metavar="SET", help="set of texture coordinates; the first where left out")
    parser.add_argument("--size", type=int, default=1024, metavar="N", help="texels a side")
    parser.add_argument("--bits", type=int, default=16, metavar="8|16")
    parser.add_argument("--layer", default="", help="relief layer")
    parser.add_argument("--low", type=float, default=-1.0, metavar="M", help="height that black stands for")
    parser.add_argument("--high", type=float, default=1.0, metavar="M", help="height that white stands for")
