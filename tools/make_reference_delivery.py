"""Writes docs/reference-delivery: a small GLB with pictures of it, for whoever writes a receiver."""

import io
import json
import pathlib
from types import MappingProxyType

import numpy as np
from make_grounds import SIZE as WHOLE
from make_grounds import fbm, normal_map, ramp
from PIL import Image

from hulmo.core.commands import AddBody, AddGround, ChangeGround, Fill, SetBlend, SetLight, SetName, Stroke
from hulmo.core.history import History
from hulmo.core.io.glb_document import glb_document
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets

FOLDER = pathlib.Path(__file__).resolve().parent.parent / "docs" / "reference-delivery"
SIZE = (640, 400)
PICTURES = {"colour": "ground", "lit": "lit", "normal": "normals", "roughness": "roughness"}


def repeating_set(seed: int, size: tuple[int, int], colours: tuple[str, str, str]) -> dict[str, bytes]:
    """Four small images that repeat."""
    rows, columns = WHOLE // size[1], WHOLE // size[0]
    height, grain = (fbm(seed + k, 1.8, 3.0)[::rows, ::columns] for k in range(2))
    dark, middle, light = colours
    images = {
        "albedo": ramp(0.7 * height + 0.3 * grain, (0.0, dark), (0.5, middle), (1.0, light)),
        "normal": normal_map(height, 4.0),
        "roughness": 0.35 + 0.6 * grain,
        "height": height,
    }
    out = {}
    for part, values in images.items():
        data = io.BytesIO()
        Image.fromarray(np.rint(np.clip(values, 0, 1) * 255).astype(np.uint8)).save(data, "PNG", optimize=True)
        out[part] = data.getvalue()
    return out


COLOURS = (("#2c3a24", "#5f7a3e", "#a3ad6a"), ("#5a4632", "#8f7350", "#cdb98c"), ("#3a3f46", "#6d747a", "#b4b8b6"))


def scene() -> Project:
    """A boulder on a sheet: three grounds by position and by UV, turned, broken up, varied, adjusted, flat, plain, tinted."""
    history = History(Project())
    history.project.textures = MappingProxyType(
        {f"made {k}": MappingProxyType(repeating_set(20 + 5 * k, (128, 128 >> (k == 1)), COLOURS[k])) for k in range(3)}
    )
    for command in (
        SetName("Reference delivery"),
        SetLight(bearing=70.0, altitude=42.0, sun=3.4, sky=0.9, exposure=-0.2),
        SetBlend("height", 0.3),
        AddGround("made 0", "Broken up", tile=1.6),
        AddGround("made 1", "By UV", tile=2.2),
        AddGround("made 2", "Adjusted", tile=1.2, tint="#e8d8b0"),
        AddGround("", "Plain", colour="#507080"),
        ChangeGround("Broken up", values={"break_up": True, "variation": 0.3, "variation_size": 2.5}),
        ChangeGround("By UV", values={"mapping": "uv", "turn": 25.0}),
        ChangeGround("Adjusted", values={"contrast": 1.3, "gamma": 0.9, "saturation": 1.3, "shading": "flat"}),
        ChangeGround("Plain", values={"roughness": 0.25, "height": 0.6}),
        AddBody("sheet", {"size": 8.0, "depth": 8.0, "edge": 0.5}, "Sheet"),
        AddBody("icosphere", {"radius": 1.6, "edge": 0.35}, "Boulder", at=(0.6, 0.9, -0.4)),
        Fill("Sheet", "By UV"),
        Fill("Boulder", "Adjusted"),
    ):
        history.do(command)
    for body, ground, point, radius in (
        ("Sheet", "Broken up", (-2.0, 0.0, 1.5), 2.2), ("Sheet", "Plain", (2.5, 0.0, 2.0), 1.4),
        ("Boulder", "Broken up", (0.6, 2.5, -0.4), 1.5), ("Boulder", "Plain", (2.2, 0.9, -0.4), 0.9),
    ):  # fmt: skip
        ray = (point[0], point[1] + 0.01, point[2], 0.0, -1.0, 0.0)
        history.do(Stroke(body, "lay", (ray,), {"radius": radius, "strength": 100.0, "core": 30.0}, ground))
    history.do(Stroke("Sheet", "tint", ((0.5, 3.0, -2.6, 0.0, -1.0, 0.0),), {"radius": 1.2, "colour": "#c04020"}))
    return history.project


def main() -> None:
    """Write everything."""
    FOLDER.mkdir(exist_ok=True)
    project = scene()
    (FOLDER / "delivery.glb").write_bytes(glb_document(project, "mean", silent()))
    context = headless_context()
    renderer, targets = Renderer(context, project), Targets(context, SIZE)
    renderer.shadows = False
    camera = Camera(np.array([0.2, 0.4, 0.2]), 9.5, 0.5, 0.55).clipped(renderer.bounds())
    for name, look in PICTURES.items():
        renderer.picture(targets, camera, look)
        pixels = targets.pixels()
        Image.fromarray(np.ascontiguousarray(pixels)).save(FOLDER / f"{name}.png", optimize=True)
    told = {
        "width": SIZE[0],
        "height": SIZE[1],
        "eye": [float(value) for value in camera.eye],
        "view_projection": [[float(value) for value in row] for row in camera.view_projection(SIZE[0] / SIZE[1])],
        "note": "view_projection: rows of the matrix that takes column vectors (x, y, z, 1) in metres to clip space; OpenGL",
    }
    (FOLDER / "camera.json").write_text(json.dumps(told, indent=1) + "\n", encoding="utf-8")
    context.release()


if __name__ == "__main__":
    main()
