"""The manifest of a delivery: what a receiver needs to know of its files, as plain values."""

from collections.abc import Mapping
from types import MappingProxyType
from typing import Any

import msgspec
import numpy as np

import hulmo
from hulmo.core.deliver.kept import seal_of
from hulmo.core.deliver.parts import grounds_on, named, palette_of
from hulmo.core.deliver.pieces import Piece
from hulmo.core.deliver.profile import Profile
from hulmo.core.io.dress_note import dress_of
from hulmo.core.low_high import low_high
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.used_rows import used_rows
from hulmo.core.progress import silent
from hulmo.core.project import Project

NOTHING: Mapping[str, Any] = MappingProxyType({})


def manifest(
    project: Project, profile: Profile, pieces: list[Piece], files: list[str], splats: Mapping[str, Any] = NOTHING,
    own_files: Mapping[str, Mapping[str, str]] = NOTHING,
) -> dict[str, Any]:  # fmt: skip
    """What a receiver needs to know of a delivery, as plain values.

    Parameters
    ----------
    splats : mapping
        What is told of images of shares, by name of the body.
    own_files : mapping
        Files of each piece, with marks of what they hold.
    """
    near = _neighbours(pieces)
    return {
        "written_by": f"Hulmo {hulmo.__version__}",
        "project": project.name,
        "profile": msgspec.to_builtins(profile),
        "units": "metres, +Y up, right-handed; distances for the lens and picture of the profile",
        "grounds": [ground.name for ground in palette_of(project, pieces)],
        **({"dress": dress_of(project, silent())} if profile.files == "many" else {}),
        "files": files,
        "pieces": [
            _sealed(
                {
                    "name": piece.name,
                    "body": piece.of,
                    **({"cell": list(piece.cell)} if piece.cell is not None else {}),
                    "bounds": _bounds(piece.levels[0].body) if piece.kept is None else piece.kept["bounds"],
                    "neighbours": near[piece.name],
                    "grounds": grounds_on(project, piece),
                    "grounds_changed": round(piece.changed, 6),
                    **_shares(piece, splats.get(named(piece.name, profile))),
                    "levels": [
                        {
                            "level": number,
                            "name": level.name,
                            "triangles": level.triangles,
                            "vertices": level.vertices,
                            "error": level.error,
                            "from": level.away,
                        }
                        for number, level in enumerate(piece.told)
                    ],
                    "collision": _solids(piece),
                    **({"source": piece.source} if piece.source else {}),
                    **({"mark": piece.mark, "files": own_files[piece.name]} if piece.name in own_files else {}),
                }
            )
            for piece in pieces
        ],
    }


def _sealed(piece: dict[str, Any]) -> dict[str, Any]:
    return {**piece, "seal": seal_of(piece)} if "mark" in piece else piece


def _solids(piece: Piece) -> list[dict[str, Any]]:
    if piece.kept is not None:
        return list(piece.kept.get("collision", []))
    return [{"name": part.name, "triangles": part.corners.live_count} for part in piece.collision]


def _shares(piece: Piece, splats: Any) -> dict[str, Any]:
    told = splats if piece.kept is None else piece.kept.get("shares")
    return {} if told is None else {"shares": told}


def _neighbours(pieces: list[Piece]) -> dict[str, list[str]]:
    # patches of a body that have places of a border in common, of each
    out: dict[str, set[str]] = {piece.name: set() for piece in pieces}
    standing = {piece.name for piece in pieces if piece.beside is not None}
    for of in {piece.of for piece in pieces}:
        those = [piece for piece in pieces if piece.of == of]
        owner = np.repeat(np.arange(len(those)), [len(piece.rim) for piece in those])
        x, y, z = np.ascontiguousarray(np.concatenate([piece.rim for piece in those])).view(np.uint32).T
        order = np.lexsort((x, y, z))
        place, owner = np.stack((x, y, z))[:, order], owner[order]
        for apart in range(1, owner.size):  # as many turns as the most patches meet at a place
            same = (place[:, apart:] == place[:, :-apart]).all(axis=0)
            if not same.any():
                break
            for one, other in np.unique(np.stack((owner[apart:], owner[:-apart]))[:, same], axis=1).T.tolist():
                if those[one].beside is None or those[other].beside is None:
                    out[those[one].name].add(those[other].name)
                    out[those[other].name].add(those[one].name)
    for piece in pieces:  # what was not divided has those beside it that were not, either, as before
        if piece.beside is not None:
            out[piece.name].update(name for name in piece.beside if name in standing)
    return {name: sorted(near - {name}) for name, near in out.items()}


def _bounds(body: Body) -> list[list[float]]:
    rows = used_rows(body.corners.live_triangles(), body.vertices.count)
    place = body.placed(body.vertices["position"][rows].astype(np.float64))
    return [edge.round(6).tolist() for edge in low_high(place)]
