"""Level waters and ponds: what they hold, and what they may hold."""

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.water_level import WaterLevel
from hulmo.core.objects.kind import Mesh, ObjectKind, put_by
from hulmo.core.objects.scene_object import SceneObject, world_matrix
from hulmo.core.setting import Colour, Number, Setting, Values, complete, number

LEVEL = Number("level", "Level", "m", -1e6, 1e6, 0.0, "Height at which the water stands; of a moon: above its sea.",
               comfort=(-20.0, 60.0))  # fmt: skip
SIZE = Number("size", "Across", "m", 0.1, 100_000.0, 200.0, "How far a level water reaches from side to side.",
              comfort=(10.0, 2000.0), curve=3.0)  # fmt: skip
DRAWN: tuple[Setting, ...] = (
    Number("clear", "Clear to", "m", 0.01, 1000.0, 3.0, "Depth at which little is left of the bottom.",
           comfort=(0.2, 20.0), curve=2.0),
    Colour("shallow", "Shallow", "#5fa39b", "Colour that light takes in shallow water."),
    Colour("deep", "Deep", "#12363f", "Colour of water that is too deep to see through."),
    Number("waves", "Waves", "°", 0.0, 30.0, 6.0, "How steep the waves are; 0: a mirror."),
    Number("length", "Wave length", "m", 0.05, 200.0, 2.0, "From crest to crest.", comfort=(0.2, 20.0), curve=2.0),
    Number("foam", "Shoreline", "m", 0.0, 100.0, 0.3, "How wide the bright line at the shore is; 0: none.",
           comfort=(0.0, 2.0), curve=2.0),
    Number("margin", "Into the shore", "m", 0.0, 1000.0, 0.5, "How far the sheet goes on under the ground.",
           comfort=(0.0, 5.0), curve=2.0),
    Number("edge", "Edges", "m", 0.0, 1000.0, 0.0, "How long edges at the shore are at the most; 0: by its size.",
           comfort=(0.0, 5.0), curve=2.0),
)  # fmt: skip

OF_LEVEL: tuple[Setting, ...] = (LEVEL, SIZE, *DRAWN)
OF_POND: tuple[Setting, ...] = (LEVEL, *DRAWN)


def is_water(entry: SceneObject) -> bool:
    """Whether an object is a level water or a pond."""
    return entry.kind in ("level_water", "pond")


def body_of(entry: SceneObject) -> int:
    """Number of the body whose down a water goes by, or on which a pond lies; 0 for the world's own down.

    Raises
    ------
    InvalidInput
    """
    found = entry.values.get("body", 0)
    if not isinstance(found, int) or isinstance(found, bool) or not 0 <= found < 2**53:
        raise InvalidInput(f"{entry.kind} {entry.name!r}: body must be the number of a body")
    return found


def water_settings(entry: SceneObject) -> Values:
    """All settings of a water, checked.

    Raises
    ------
    InvalidInput
    """
    given = {name: value for name, value in entry.values.items() if name != "body"}
    return complete(OF_POND if entry.kind == "pond" else OF_LEVEL, given, f"{entry.kind} {entry.name!r}")


def levels_on(objects: tuple[SceneObject, ...], body: int, even: bool, sea: float) -> tuple[WaterLevel, ...]:
    """Waters that stand on a body.

    Parameters
    ----------
    body : int
        Its number.
    even : bool
        Whether its down is the world's.
    sea : float
        Metres of the world that its heights count from.
    """
    out = []
    for entry in objects:
        if not is_water(entry) or not entry.shown:
            continue
        try:
            own, level = body_of(entry), number(water_settings(entry), "level")
            at = world_matrix(objects, entry)[:3, 3].tolist()
        except InvalidInput:
            continue
        if entry.kind == "pond" and own == body:
            out.append(WaterLevel(entry.ident, level, (at[0], at[1], at[2])))
        elif entry.kind == "level_water" and own == body:
            out.append(WaterLevel(entry.ident, level))
        elif entry.kind == "level_water" and own == 0 and even:
            out.append(WaterLevel(entry.ident, level - sea))
    return tuple(out)


def _check(entry: SceneObject, where: str) -> None:
    body_of(entry)
    water_settings(entry)
    if entry.kind == "pond" and not body_of(entry):
        raise InvalidInput(f"{where}: the pond {entry.name!r} lies on no body; press in a hollow of one")


def drop_mesh() -> Mesh:
    """A drop: a ring that runs out into a tip."""
    around, rings = 16, 9
    turn = np.linspace(0.0, 2.0 * np.pi, around, endpoint=False)
    rise = np.linspace(0.0, np.pi, rings)[:, None]
    wide, high = 0.32 * np.sin(rise) * np.sin(rise / 2), -0.45 * np.cos(rise) + np.zeros(around)
    position = np.stack((wide * np.cos(turn), -high, wide * np.sin(turn)), axis=2).reshape(-1, 3)
    low = (np.arange(rings - 1)[:, None] * around + np.arange(around)).reshape(-1)
    side = low - low % around + (low + 1) % around
    triangles = np.concatenate(
        (np.stack((low, side, low + around), axis=1), np.stack((side, side + around, low + around), axis=1))
    )
    away = position / np.maximum(np.linalg.norm(position, axis=1, keepdims=True), 1e-9)
    return position.astype(np.float32), away.astype(np.float32), triangles.astype(np.int32)


def water_kind(name: str, label: str, help_: str, settings: tuple[Setting, ...]) -> ObjectKind:
    """A kind of water; in the window a drop shows where it was put."""
    return ObjectKind(name, label, help_, settings, drop_mesh, (0.08, 0.30, 0.42), True, _check, _moved, turns=False)


def _moved(entry: SceneObject, way: NDArray[np.float64]) -> SceneObject:
    # a level water that is lifted stands higher; a pond keeps its level
    out = put_by(entry, way)
    if entry.kind != "level_water" or body_of(entry) or not way[1]:
        return out
    level = number(water_settings(entry), "level") + float(way[1])
    return msgspec.structs.replace(out, values={**entry.values, "level": level})
