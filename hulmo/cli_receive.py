"""`hulmo receive`: a delivered file drawn by what stands in it, beside the picture it was made from."""

import argparse
import pathlib
from typing import TYPE_CHECKING

from hulmo.cli_size import place_of, size_of
from hulmo.core.errors import FileProblem, HulmoError, InvalidInput

if TYPE_CHECKING:
    from hulmo.receive.draw import Picture
    from hulmo.receive.glb import Eye

LOOKS = {"lit": "lit", "colour": "ground", "normals": "normals", "roughness": "roughness"}
"""What is drawn, and the look of the canvas that shows the same."""

LARGEST = 4_000_000_000
"""Bytes of a file at the most."""


def receive(options: argparse.Namespace) -> int:
    """Draw, compare, write."""
    import numpy as np
    from PIL import Image

    from hulmo.core.io.png import write_png
    from hulmo.receive.draw import decibels, drawn, framing
    from hulmo.receive.glb import Eye, Glb
    from hulmo.receive.usd import ENDINGS, UsdFile
    from hulmo.render.context import headless_context

    path, out = pathlib.Path(options.file), pathlib.Path(options.output)
    if out.suffix.lower() != ".png":
        raise InvalidInput(f"{out}: a picture is written as .png")
    if options.show not in LOOKS:
        raise InvalidInput(f"--show {options.show}: it must be one of {', '.join(LOOKS)}")
    size = size_of(options.size)
    if not all(16 <= side <= 8192 for side in size):
        raise InvalidInput(f"--size {options.size}: both sides must lie between 16 and 8,192 pixels")
    try:
        if path.stat().st_size > LARGEST:
            raise FileProblem(f"{path}: is larger than {LARGEST:,} bytes")
        data = path.read_bytes()
    except OSError as error:
        raise FileProblem(f"{path}: cannot be read ({error.strerror})") from error
    context = None
    try:
        file = UsdFile(path) if path.suffix.lower() in ENDINGS else Glb(data, str(path), path.parent, options.level)
        eyes = [eye for eye in file.eyes() if options.view in ("", eye.name)]
        if options.view and not eyes:
            raise InvalidInput(f"{path}: has no camera {options.view!r}")
        parts = file.parts()
        baked = not any(name.startswith("_GROUND_") for part in parts for name in part.attributes)
        what = "colour" if baked else options.show
        eye = eyes[0] if eyes else framing(parts)
        if options.eye or options.target:
            eye = Eye(
                "there",
                np.array(place_of(options.eye, "--eye")),
                np.array(place_of(options.target, "--target")),
                min(max(options.field, 1.0), 170.0),
            )
        context = headless_context()
        picture, cover = drawn(context, file, eye, size, what)
    except (HulmoError, MemoryError):
        raise
    except Exception as error:  # a damaged file can hold anything in place of anything
        raise FileProblem(f"{path}: damaged ({type(error).__name__}: {error})") from error
    finally:
        if context is not None:
            context.release()
    if not options.beside:
        write_png(out, Image.fromarray(picture))
        print(f"{out}: {size[0]} x {size[1]}, {what}, from {eye.name}")
        return 0
    canvas = _canvas(pathlib.Path(options.beside), eye, size, LOOKS[what], {part.name for part in parts})
    there = cover > 127
    away = np.abs(picture.astype(np.int16) - canvas).max(axis=2) * there
    row, column = np.unravel_index(int(away.argmax()), away.shape)
    write_png(out, Image.fromarray(np.ascontiguousarray(np.concatenate((picture, canvas), axis=1))))
    print(
        f"{out}: the file on the left, the project on the right; {decibels(picture, canvas, there):.1f} dB where it covers, "
        f"largest difference {int(away.max())} of 255 at {column}, {row}"
    )
    return 0


def _canvas(path: pathlib.Path, eye: "Eye", size: tuple[int, int], look: str, names: set[str]) -> "Picture":
    # what the canvas shows of the ground alone, without shadows
    import msgspec
    import numpy as np

    from hulmo.core.dress.viewpoint import Viewpoint
    from hulmo.core.io.project_file import open_project
    from hulmo.render.camera import Camera
    from hulmo.render.context import headless_context
    from hulmo.render.renderer import Renderer
    from hulmo.render.targets import Targets

    project = open_project(path)
    project.objects = ()
    project.light = msgspec.structs.replace(project.light, sight=0.0)
    project.bodies = tuple(body for body in project.bodies if body.name in names) or project.bodies
    for body in project.bodies:
        body.strewn = None
    context = headless_context()
    try:
        renderer, targets = Renderer(context, project), Targets(context, size)
        renderer.shadows = False
        view = Viewpoint("", tuple(eye.place.tolist()), tuple(eye.target.tolist()), eye.field)
        renderer.picture(targets, Camera.from_viewpoint(view, renderer.bounds()), look)
        return np.ascontiguousarray(targets.pixels()[..., :3])
    finally:
        context.release()


def declare_receive(parser: argparse.ArgumentParser) -> None:
    """Options of `hulmo receive`."""
    parser.add_argument("file", metavar="FILE.{glb,gltf,usdc,usda,usdz}")
    parser.add_argument("-o", "--output", required=True, metavar="OUT.png")
    parser.add_argument("--view", default="", help="a camera of the file by name; its first, or all of it")
    parser.add_argument("--level", type=int, default=0, metavar="N", help="a coarser level, where there is one")
    parser.add_argument("--eye", default="", metavar="X,Y,Z", help="look from there, metres; with --target")
    parser.add_argument("--target", default="", metavar="X,Y,Z", help="what is looked at")
    parser.add_argument("--field", type=float, default=40.0, metavar="DEGREES", help="field of view with --eye")
    parser.add_argument("--size", default="960x600", metavar="WxH")
    parser.add_argument("--show", default="lit", metavar="lit|colour|normals|roughness")
    parser.add_argument("--beside", default="", metavar="P.hulmo", help="compare it with the project it was made from")
