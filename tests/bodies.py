"""Small bodies and projects that many tests need."""

import pathlib
import secrets
import shutil

import numpy as np

from hulmo.core.commands import AddBody, Stroke
from hulmo.core.history import History
from hulmo.core.journal import Journal
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.forms import FORMS, Shape
from hulmo.core.mesh.layer import derived
from hulmo.core.project import Project
from hulmo.core.sculpt.brush import Dab
from hulmo.core.setting import complete

FORM_VALUES = {
    "sheet": {"size": 8.0, "depth": 6.0, "edge": 0.5},
    "disc": {"radius": 4.0, "edge": 0.5},
    "column": {"radius": 3.0, "height": 7.0, "edge": 0.5},
    "icosphere": {"radius": 5.0, "edge": 0.5},
    "box_sphere": {"radius": 5.0, "edge": 0.5},
    "block": {"size": 4.0, "height": 3.0, "depth": 5.0, "edge": 0.5},
}


def form_body(name: str, **values: float) -> Body:
    """A base form as a body."""
    form = FORMS[name]
    return Body.from_shape(name, form.build(complete(form.settings, values or FORM_VALUES[name], "test")))


def project_with(name: str = "icosphere", **values: float) -> History:
    """A project with one body called Body."""
    history = History(Project())
    history.do(AddBody(name, dict(values or FORM_VALUES[name]), "Body"))
    return history


def random_surface(seed: int, cells: int = 24) -> Body:
    """A bumpy open sheet."""
    rng = np.random.default_rng(seed)
    body = form_body("sheet", size=10.0, depth=10.0, edge=10.0 / cells)
    position = body.vertices["position"]
    position += rng.normal(0, 0.12, position.shape).astype(np.float32)
    body.replaced()
    return body


def regions(body: Body) -> np.ndarray:
    """(M,) view of the regions of a body's triangle slots, made where there are none."""
    slots = body.corners.slots
    if "region" not in slots:
        slots.add("face", "region", 1)
    return slots["region"][:, 0, 0]


def two_sheets() -> Body:
    """Two sheets 0.2 m apart that do not touch: the far side of a thin wall."""
    sheet = FORMS["sheet"].build({"size": 4.0, "depth": 4.0, "edge": 0.25})
    count = sheet.position.shape[0]
    low = sheet.position - np.array([0, 0.2, 0], np.float32)
    triangles = np.concatenate((sheet.triangles, sheet.triangles[:, ::-1] + count))
    return Body.from_shape("wall", Shape(np.concatenate((sheet.position, low)), triangles))


def stroke(
    brush: str, *samples: tuple[float, ...], ground: str = "", invert: bool = False, **settings: object
) -> Stroke:
    """A stroke on the body called Body."""
    return Stroke("Body", brush, tuple(samples), dict(settings), ground, invert)


def snapshot(body: Body) -> dict[str, bytes]:
    """Bytes of every column of a body; of those that follow from others, only where there is a vertex."""
    live = body.corners.first_corner >= 0
    derived_ones = [name for name in body.vertices.names if derived(name, bool(body.layers))]
    return {
        name: (body.vertices[name][live] if name in derived_ones else body.vertices[name]).tobytes()
        for name in body.vertices.names
    }


def crash(journal: Journal) -> pathlib.Path:
    """A copy of what a journal holds now, as the end of its process would leave it."""
    assert journal.place is not None
    dead = journal.place.with_name(f"dead-{secrets.token_hex(4)}")
    shutil.copytree(journal.place, dead)
    return dead


def dab_of(body: Body, rows: np.ndarray, amount: np.ndarray, **values: float | str) -> Dab:
    """A dab as a brush gets it, of no stroke."""
    none, position = np.zeros(3), body.vertices["position"]
    return Dab(
        body,
        rows,
        amount,
        dict(values),
        False,
        none,
        none,
        none,
        -1,
        none,
        position,
        none,
        np.eye(3),
        1.0,
        rows,
        lambda some: body.vertices["normal"][some],
    )
