"""What dresses a scene, noted in JSON beside a format that has no place for it."""

import json
import pathlib
from typing import Any

import hulmo
from hulmo.core.errors import InvalidInput
from hulmo.core.io.quaternions import quaternions
from hulmo.core.io.safe_write import safe_write
from hulmo.core.mesh.strewn import frames
from hulmo.core.objects.lamp import LAMP, LUX, candela, lamp_values
from hulmo.core.objects.scene_object import SceneObject, world_matrix
from hulmo.core.objects.water import is_water, water_settings
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import number
from hulmo.core.water.surface import water_surface

ENDING = ".dress.json"

UNITS = (
    "metres, +Y up, right-handed; turn: quaternion x, y, z, w; size: a factor; light: candela in linear red, green and blue; "
    "sun: lux in linear red, green and blue; field: vertical, degrees"
)


def note_beside(path: pathlib.Path) -> pathlib.Path:
    """Where the note of an exported file lies: skerry.dress.json for skerry.ply."""
    return path.with_suffix(ENDING)


def write_dress_note(project: Project, path: pathlib.Path, progress: Progress) -> bool:
    """Note waters, props, lamps, sun and viewpoints of all that is shown. False where there is none of them but the sun.

    Parameters
    ----------
    path : Path
        Of the exported file; see `note_beside`.

    Raises
    ------
    FileProblem
    """
    found = dress_of(project, progress)
    if not any(found[name] for name in ("waters", "props", "lamps", "viewpoints")):
        return False
    with safe_write(note_beside(path)) as file:
        file.write(json.dumps(found, ensure_ascii=False, indent=1, allow_nan=False).encode())
    return True


def dress_of(project: Project, progress: Progress) -> dict[str, Any]:
    """The note, of plain values."""
    shown = [entry for entry in project.objects if entry.shown]
    sun = project.light
    return {
        "written_by": f"Hulmo {hulmo.__version__}",
        "units": UNITS,
        "waters": [water for entry in shown if is_water(entry) for water in _water(project, entry, progress)],
        "props": _props(project),
        "lamps": [_lamp(project, entry) for entry in shown if entry.kind == LAMP.name],
        "sun": {"toward": list(sun.toward_sun()), "light": [value * LUX for value in sun.sun_light()]},
        "viewpoints": [
            {"name": view.name, "eye": list(view.eye), "target": list(view.target), "field": view.field}
            for view in project.viewpoints
        ],
    }


def _water(project: Project, entry: SceneObject, progress: Progress) -> list[dict[str, Any]]:
    try:
        found = water_surface(project.bodies, project.objects, entry, progress)
    except InvalidInput:
        return []  # none stands there
    figures = {name: float(getattr(found, name)) for name in ("level", "area", "volume", "deepest", "shore_length")}
    told: dict[str, Any] = {"name": entry.name, "kind": entry.kind, **figures, "look": dict(water_settings(entry))}
    if found.spill is not None:
        told["spill"] = {"at": [float(value) for value in found.spill.at], "height": float(found.spill.height)}
    return [told]


def _props(project: Project) -> list[dict[str, Any]]:
    out: list[dict[str, Any]] = []
    for body in project.bodies:
        if not body.shown or body.strewn is None:
            continue
        strewn = body.strewn.taken(body.strewn.there)
        pivot, matrix = frames(body, strewn)
        place = body.placed(pivot)
        turn = quaternions(matrix / strewn.size.astype(float)[:, None, None]) if strewn.count else place
        for prop in project.props:
            rows = strewn.prop == prop.ident
            if rows.any():
                out.append(
                    {
                        "name": prop.name,
                        "body": body.name,
                        "place": place[rows].tolist(),
                        "turn": turn[rows].tolist(),
                        "size": strewn.size[rows].tolist(),
                    }
                )
    return out


def _lamp(project: Project, entry: SceneObject) -> dict[str, Any]:
    place = world_matrix(project.objects, entry)[:3, 3].tolist()
    return {
        "name": entry.name,
        "place": place,
        "light": list(candela(entry)),
        "reach": number(lamp_values(entry), "reach"),
    }
