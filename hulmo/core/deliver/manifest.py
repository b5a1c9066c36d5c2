"""The manifest of a delivery: what a receiver needs to know of its files, as plain values."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

import msgspec
import numpy as np

import hulmo
from hulmo.core.deliver.levels import Level
from hulmo.core.deliver.parts import named, palette_of
from hulmo.core.deliver.patches import neighbours
from hulmo.core.deliver.pieces import Piece, level_name
from hulmo.core.deliver.profile import Profile
from hulmo.core.io.dress_note import dress_of
from hulmo.core.mesh.body import Body
from hulmo.core.progress import silent
from hulmo.core.project import Project

MANIFEST = "manifest.json"

NOTHING: Mapping[str, Any] = MappingProxyType({})


def manifest(
    project: Project, profile: Profile, pieces: list[Piece], files: list[str], splats: Mapping[str, Any] = NOTHING
) -> dict[str, Any]:
    """What a receiver needs to know of a delivery, as plain values; `splats` is what is told of images of shares."""
    cells: dict[str, list[tuple[int, ...]]] = {piece.of: [] for piece in pieces}
    for piece in pieces:
        if piece.cell is not None:
            cells[piece.of].append(piece.cell)
    near = {of: neighbours(known) for of, known in cells.items()}
    by_cell = {(piece.of, piece.cell): piece.name for piece in pieces}
    return {
        "written_by": f"Hulmo {hulmo.__version__}",
        "project": project.name,
        "profile": msgspec.to_builtins(profile),
        "units": "metres, +Y up, right-handed; distances for the lens and picture of the profile",
        "grounds": [ground.name for ground in palette_of(project, pieces)],
        **({"dress": dress_of(project, silent())} if profile.files == "many" else {}),
        "files": files,
        "pieces": [
            {
                "name": piece.name,
                "body": piece.of,
                **({"cell": list(piece.cell)} if piece.cell is not None else {}),
                "bounds": _bounds(piece.levels[0].body),
                "neighbours": [by_cell[piece.of, cell] for cell in near[piece.of].get(piece.cell, [])]
                if piece.cell
                else [],
                "grounds_changed": round(piece.changed, 6),
                **({"shares": splats[own]} if (own := named(piece.name, profile)) in splats else {}),
                "levels": [
                    {
                        "level": number,
                        "name": level_name(piece.name, number),
                        "triangles": level.body.corners.live_count,
                        "vertices": level.body.vertices.live_count,
                        "error": _round_up(level.error),
                        "from": distance_of(level, profile),
                    }
                    for number, level in enumerate(piece.levels)
                ],
                "collision": [{"name": part.name, "triangles": part.corners.live_count} for part in piece.collision],
            }
            for piece in pieces
        ],
    }


def distance_of(level: Level, profile: Profile) -> float:
    """Metres from which on a level does."""
    return _round_up(level.switch(round(profile.picture), profile.field, profile.pixels))


def _bounds(body: Body) -> list[list[float]]:
    rows = np.unique(body.corners.live_triangles())
    place = body.placed(body.vertices["position"][rows].astype(np.float64))
    return [place.min(axis=0).round(6).tolist(), place.max(axis=0).round(6).tolist()]


def _round_up(value: float) -> float:
    return float(np.ceil(value * 1e6) / 1e6)
