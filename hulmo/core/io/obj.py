"""Export to OBJ with MTL (Wavefront, Object Files and MTL, Advanced Visualizer manual, appendix B)."""

import pathlib
import re
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

import hulmo
from hulmo.core.colour import linear_to_srgb
from hulmo.core.ground.ground import Ground
from hulmo.core.io.axes import HAND, faced, placed
from hulmo.core.io.axes import SETTINGS as AXES
from hulmo.core.io.delivery import Delivery, deliver, mean_colours
from hulmo.core.io.exporter import Exporter
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name
from hulmo.core.setting import Setting, Switch, Values

LINES = 100_000
"""Lines that are put into words at a time."""

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
                file.write(text.encode())
            first += (len(body.position), 0 if body.uv is None else len(body.uv), len(body.normal))
    progress.step(1.0, "exported")


def _body(body: Delivery, values: Values, materials: list[str], first: NDArray[np.int64]) -> Iterator[str]:
    position, normal = placed(body, values)
    yield f"o {_word(body.name)}\n"
    place = "v" + (" %.13g" if any(body.origin) else " %.9g") * 3  # all that single precision holds, and far from zero
    if values["colours"]:
        colour = linear_to_srgb(body.colour)
        yield from _lines(place + " %.4g" * 3 + "\n", np.column_stack((position, colour)))
    else:
        yield from _lines(place + "\n", position)
    if body.uv is not None:
        yield from _lines("vt %.7g %.7g\n", body.uv * np.array([1, -1], np.float32) + np.array([0, 1], np.float32))
    yield from _lines("vn %.6g %.6g %.6g\n", normal)
    triangles = faced(body, values).astype(np.int64)
    corner = [triangles + first[0], *([] if body.uv is None else [triangles + first[1]]), triangles + first[2]]
    faces = np.stack(corner, axis=2)
    form = "f " + " ".join(["%d//%d" if body.uv is None else "%d/%d/%d"] * 3) + "\n"
    if not materials:
        yield from _lines(form, faces.reshape(len(faces), -1))
        return
    share = body.weights[:, : len(materials)].astype(np.int64)[body.triangles].sum(axis=1)
    most = share.argmax(axis=1)
    for which in np.unique(most).tolist():
        yield f"usemtl {materials[which]}\n"
        yield from _lines(form, faces[most == which].reshape(-1, faces[0].size))


def _lines(form: str, rows: NDArray[np.floating] | NDArray[np.integer]) -> Iterator[str]:
    for begin in range(0, len(rows), LINES):
        part = rows[begin : begin + LINES]
        yield form * len(part) % tuple(part.reshape(-1).tolist())


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
