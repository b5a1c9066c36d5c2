"""Fills in docs/blend-formula.md: the table of values, the shaders, and how near independent receivers come to the pictures.

Run with --figures to measure anew, which takes some minutes.
"""

import pathlib
import re
import sys

import numpy as np

from hulmo.core.io.blend_table import LOOKUPS, TABLE
from hulmo.core.io.blend_text import blend_glsl, light_glsl
from hulmo.core.io.glb_document import glb_document
from hulmo.core.io.project_file import open_project
from hulmo.core.progress import silent
from hulmo.demo import demo_file
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets

ROOT = pathlib.Path(__file__).resolve().parent.parent
PAGE = ROOT / "docs" / "blend-formula.md"
SIZE = (480, 300)


def filled(text: str, parts: dict[str, str]) -> str:
    """The page with what stands between its marks made anew."""
    for name, content in parts.items():
        mark = re.compile(rf"(<!-- {name} -->\n).*?(<!-- end -->)", re.S)
        text = mark.sub(lambda found, content=content: f"{found[1]}{content}\n{found[2]}", text)
    return text


def parts() -> dict[str, str]:
    """What follows from the code."""
    rows = ["| in the file | what it is |", "|---|---|", *(f"| `{row.key}` | {row.meaning} |" for row in TABLE)]
    lookups = "; ".join(f"{name}: {value}" for name, value in LOOKUPS.items())
    return {
        "table": "\n".join(rows),
        "lookups": f"{lookups}.",
        "blend": f"```glsl\n{blend_glsl()}```",
        "shade": f"```glsl\n{light_glsl()}```",
    }


def figures() -> str:
    """Table of viewpoint by figure."""
    sys.path.insert(0, str(ROOT))
    from tests.reference.receiver import Delivered, HandReceiver, ShaderReceiver, View, decibels

    context = headless_context()
    targets = Targets(context, SIZE)
    rows = [
        "| demo | viewpoint | colour | lit | normals | roughness |", "|---|---|---|---|---|---|",
    ]  # fmt: skip
    for name in ("tern-skerry", "vesper", "gill-gallery"):
        project = open_project(demo_file(name))
        project.objects = tuple(entry for entry in project.objects if entry.kind != "figure")
        delivered = Delivered(glb_document(project, "mean", silent()))
        receivers = ShaderReceiver(context, delivered), HandReceiver(context, delivered)
        renderer = Renderer(context, project)
        renderer.shadows = False
        for viewpoint in project.viewpoints:
            camera = Camera.from_viewpoint(viewpoint, renderer.bounds())
            view = View(np.array(camera.eye), camera.view_projection(SIZE[0] / SIZE[1]))
            cells = []
            for drawn, look in enumerate(("ground", "lit", "normals", "roughness")):
                renderer.picture(targets, camera, look)
                mine = targets.pixels()
                found = []
                for receiver in receivers:
                    theirs = receiver.draw(view, SIZE, drawn)
                    found.append(decibels(mine, np.rint(theirs[:, :, :3] * 255), theirs[:, :, 3] > 0.5))
                cells.append(f"{found[0]:.0f}, {found[1]:.0f} dB")
            rows.append(f"| {project.name} | {viewpoint.name} | {' | '.join(cells)} |")
    context.release()
    return "\n".join(rows)


if __name__ == "__main__":
    made = parts()
    if "--figures" in sys.argv:
        made["figures"] = figures()
    PAGE.write_text(filled(PAGE.read_text(encoding="utf-8"), made), encoding="utf-8")
