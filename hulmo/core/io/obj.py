"""Export to OBJ with MTL (Wavefront, Object Files and MTL, Advanced Visualizer manual, appendix B)."""

import math
import pathlib
import re
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

import hulmo
from hulmo.core.colour import linear_to_srgb
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.lies_most import lies_most
from hulmo.core.io.axes import HAND, faced, placed
from hulmo.core.io.axes import SETTINGS as AXES
from hulmo.core.io.delivery import Delivery, deliver, mean_colours
from hulmo.core.io.exporter import Exporter
from hulmo.core.io.number_text import face_lines, lines_of
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name
from hulmo.core.setting import Setting, Switch, Values

DIGITS, COLOUR_DECIMALS, NORMAL_DECIMALS = 13, 4, 6
"""Digits of a position far from zero; near it all that single precision holds are written. Decimals of the rest."""

SETTINGS: tuple[Setting, ...] = (
    *AXES,
    HAND,
    Switch("colours", "Colours at vertices", True, "Red, green and blue of the mean colour behind each position, as many "
           "programs read them."),
    Switch("materials", "Materials by ground", True, "A material for every ground; each triangle has that of the ground "
           "that lies most on it."),
)  # fmt: skip


def write_obj(project: Project, path: pathlib.Path, values: Values, progress: Progress) -> None:
    """Write all shown bodies, an object each: positions, texture coordinates where there are any (origin at the lower left),
    normals; and beside the file the materials, where they are asked for.

    Shares of grounds have no place in this format: a triangle is of one material.

    Raises
    ------
    InvalidInput, FileProblem
    """
    progress.step(0.0, "collecting vertices")
    bodies, used = deliver(project)
    grounds = [project.grounds[column] for column in used]
    materials = _names(grounds) if values["materials"] else []
    beside = path.with_suffix(".mtl")
    if materials:
        with safe_write(beside) as file:
            file.write(_materials(grounds, materials, mean_colours(tuple(grounds), project.textures)).encode())
    first = np.ones(3, np.int64)
    with safe_write(path) as file:
        file.write(f"# Hulmo {hulmo.__version__}\n".encode())
        if materials:
            file.write(f"mtllib {beside.name}\n".encode())
        for done, body in enumerate(bodies):
            progress.step(0.1 + 0.9 * done / len(bodies), f"writing {body.name}")
            for text in _body(body, values, materials, first):
                file.write(text)
            first += (len(body.position), 0 if body.uv is None else len(body.uv), len(body.normal))
    progress.step(1.0, "exported")


def _body(body: Delivery, values: Values, materials: list[str], first: NDArray[np.int64]) -> Iterator[bytes]:
    position, normal = placed(body, values)
    yield f"o {_word(body.name)}\n".encode()
    places = _rounded(position) if any(body.origin) else position.astype(np.float32)
    if values["colours"]:
        colour = np.round(linear_to_srgb(body.colour()), COLOUR_DECIMALS)
        places = np.column_stack((places, colour.astype(places.dtype)))
    yield from lines_of("v", places)
    if body.uv is not None:
        yield from lines_of("vt", body.uv * np.array([1, -1], np.float32) + np.array([0, 1], np.float32))
    yield from lines_of("vn", np.round(normal, NORMAL_DECIMALS) + np.float32(0.0))
    between = "//" if body.uv is None else "/"
    step = first if body.uv is not None else first[[0, 2]]
    triangles = faced(body, values).astype(np.int64)[:, :, None]
    if not materials:
        yield from face_lines(triangles + step, between)
        return
    most = lies_most(body.weights()[:, : len(materials)], body.triangles)
    for which in np.unique(most).tolist():
        yield f"usemtl {materials[which]}\n".encode()
        yield from face_lines(triangles[most == which] + step, between)


def _rounded(position: NDArray[np.float64]) -> NDArray[np.float64]:
    # far from zero: to so many digits
    high = max(float(np.abs(position).max(initial=0.0)), 1e-9)
    return np.asarray(np.round(position, DIGITS - 1 - math.floor(math.log10(high))) + 0.0)


def _word(name: str) -> str:
    # names end at a blank in this format
    return re.sub(r"\s+", "_", name.strip()) or "body"


def _names(grounds: list[Ground]) -> list[str]:
    out: list[str] = []
    for ground in grounds:
        out.append(free_name(_word(ground.name), out).replace(" ", "_"))
    return out


def _materials(grounds: list[Ground], names: list[str], means: NDArray[np.float64]) -> str:
    out = [f"# Hulmo {hulmo.__version__}: mean colours of the grounds\n"]
    for ground, name, mean in zip(grounds, names, linear_to_srgb(means), strict=True):
        red, green, blue = np.clip(mean, 0.0, 1.0).tolist()
        shine = max(0.0, 1.0 - ground.roughness)
        out.append(
            f"newmtl {name}\nKd {red:.4f} {green:.4f} {blue:.4f}\nKs {0.2 * shine:.4f} {0.2 * shine:.4f} "
            f"{0.2 * shine:.4f}\nNs {1 + 200 * shine * shine:.1f}\nd 1\nillum 2\n"
        )
    return "\n".join(out)


EXPORTER = Exporter(
    "obj", "OBJ", "Mesh with a material for every ground, for programs of every age.", SETTINGS, write_obj
)
