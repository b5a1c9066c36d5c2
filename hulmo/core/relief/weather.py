"""Weather: rain runs down the surface, carves, carries and lays down, over years."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.traces import FLOW, LAID, WORN
from hulmo.core.noise import fbm
from hulmo.core.relief.relief import SEED, Relief, Task
from hulmo.core.setting import Choice, Number, Switch, Text, Values, number
from hulmo.core.topology.parts import part_of_triangles
from hulmo.core.weather.graph import graph_of, has_lower, seen_from_above
from hulmo.core.weather.rain import Climate, rained

SOFTEST = 1e-3
"""Metres a year at slope 1 that a square metre of rain wears off the softest rock; the hardest is a hundred times as hard."""

WALL = 0.25
"""Upward part of a normal under which rock wears less and less, down to nothing where it hangs over."""


def lay(task: Task) -> NDArray[np.float32]:
    """(N, 3) offsets, metres, straight up and down; tells `flow`, `laid` and `worn`."""
    values = task.values
    up, height = task.up, task.heights
    corners, count = task.corners, task.position.shape[0]
    area = seen_from_above(corners, task.position, up)
    covered = np.zeros(count, np.bool_) if task.covered is None else task.covered()
    rain = np.where(covered, 0.0, number(values, "rain"))
    rise = np.clip((task.normal * up).sum(axis=1) / WALL, 0.0, 1.0)
    soft = SOFTEST * 10.0 ** (-2.0 * number(values, "hardness") / 100.0) * _give(task, height)
    soft = np.where(covered, 0.0, soft * rise * rise * (3.0 - 2.0 * rise))
    area = np.where(covered, 0.0, area)
    graph = graph_of(corners, task.position, up)
    leaves = height <= (number(values, "sea") if values["at_sea"] else -np.inf)
    if values["border"]:  # where it has come to the edge and no further way leads down
        leaves |= graph.border & ~has_lower(graph, height)
    leaves = _lowest(task, leaves, height)
    climate = Climate(
        number(values, "years"), soft, grain=number(values, "grain") / 100.0, angle=number(values, "angle"),
        slide=number(values, "slide") / 100.0, steps=int(number(values, "steps")),
    )  # fmt: skip
    found = rained(graph, height, area, rain, leaves, np.asarray(task.free, np.float64), climate, task.progress)
    after, laid = found.height, found.laid
    if values["stays"] and found.gone > 0:
        share = laid * area
        share = area * task.free if share.sum() <= 0 else share
        more = np.divide(found.gone * share / max(share.sum(), 1e-300), area, out=np.zeros(count), where=area > 0)
        after, laid = after + more, laid + more
    task.told[FLOW] = np.sqrt(found.flow).astype(np.float32)
    task.told[LAID], task.told[WORN] = laid.astype(np.float32), found.worn.astype(np.float32)
    return np.asarray(up * (after - height)[:, None], np.float32)


def _lowest(task: Task, leaves: NDArray[np.bool_], height: NDArray[np.float64]) -> NDArray[np.bool_]:
    # a part from which nothing leaves does so where it is lowest
    triangles = task.corners.live_triangles()
    count, part = part_of_triangles(task.corners)
    of = np.full(height.size, -1)
    of[triangles[:, 0]] = of[triangles[:, 1]] = of[triangles[:, 2]] = part
    out = leaves.copy()
    open_ = np.zeros(count, np.bool_)
    open_[of[leaves & (of >= 0)]] = True
    if open_.all():
        return out
    order = np.argsort(height, kind="stable")
    order = order[of[order] >= 0]
    _, first = np.unique(of[order], return_index=True)
    for row in order[first]:
        out[row] |= not open_[of[row]]
    return out


def _give(task: Task, height: NDArray[np.float64]) -> NDArray[np.float64]:
    # how soft rock is from place to place, 0.02 to 1
    values = task.values
    by, seed = values["hard_by"], int(number(values, "seed"))
    if by == "even":
        return np.ones(height.size)
    thick = number(values, "bed")
    if by == "noise":
        hard = np.clip(0.5 + fbm(task.position, 4.0 * thick, 3, seed), 0.0, 1.0)
    elif by == "beds":
        bend = fbm(task.level_places, 12.0 * thick, 2, seed)
        wave = 0.5 + 0.5 * np.sin(2.0 * np.pi * (height / thick + 0.6 * bend))
        hard = np.clip(3.0 * (wave - 0.5) + 0.5, 0.0, 1.0)
    else:
        assert task.share is not None
        name = str(values["hard_ground"])
        share = task.share(name)
        if not share.any():
            raise InvalidInput(
                f"weather: {name!r} lies nowhere on this body; lay some of it, or take hardness from elsewhere"
            )
        hard = share.astype(np.float64)
    return np.asarray(0.02 ** np.asarray(hard, np.float64))


def check(values: Values, where: str) -> None:
    """Refuse settings that name no ground."""
    if values["hard_by"] == "ground" and not str(values["hard_ground"]).strip():
        raise InvalidInput(f"{where}: name the ground that is hard")


RELIEF = Relief(
    name="weather",
    label="Weather",
    help="Lets rain carve, carry and lay down.",
    settings=(
        Number("years", "Years", "yr", 1.0, 1e6, 2000.0, "How long it rains.", comfort=(10.0, 50_000.0), curve=3.0),
        Number("rain", "Rain", "×", 0.0, 20.0, 1.0, "Times what is usual.", comfort=(0.0, 4.0)),
        Number("hardness", "Hardness", "%", 0.0, 100.0, 50.0, "Of the rock: each half of it wears ten times as slowly."),
        Choice(
            "hard_by", "Harder are",
            (
                ("even", "None", "The rock is the same everywhere."),
                ("beds", "Beds", "Level beds, some hard, some soft: ledges stand out."),
                ("noise", "Lumps", "Hard lumps in softer rock."),
                ("ground", "A ground", "Where a ground lies that you name."),
            ),
            "even", "Which rock stands out.",
        ),
        Number("bed", "Bed", "m", 0.01, 10_000.0, 3.0, "From one hard bed, or lump, to the next.", comfort=(0.2, 50.0),
               curve=3.0, only=(("hard_by", "beds"), ("hard_by", "noise"))),
        Text("hard_ground", "Ground", "", "Name of the ground that is hard.", only=(("hard_by", "ground"),)),
        Number("grain", "Grain", "%", 0.0, 200.0, 40.0, "How soon what is carried is laid down: 0 is so fine it never is.",
               comfort=(0.0, 100.0)),
        Number("slide", "Slumping", "%", 0.0, 100.0, 30.0, "Share of what is too steep that slides down at each step."),
        Number("angle", "Angle of repose", "°", 5.0, 80.0, 40.0, "What is steeper slides.", comfort=(20.0, 60.0)),
        Switch("at_sea", "Leaves in the sea", False, "Water leaves where the surface lies no higher than the sea."),
        Number("sea", "Sea", "m", -1e5, 1e5, 0.0, "Height of the sea.", comfort=(-20.0, 20.0), only=(("at_sea", True),)),
        Switch("border", "Leaves at the border", True, "Water and what it carries leave an open body at its edge."),
        Switch("stays", "Nothing is lost", False, "What would leave is laid down where the rest was."),
        Number("steps", "Steps", "", 1, 60, 20, "More are smoother and slower.", whole=True),
        SEED,
    ),
    lay=lay,
    check=check,
)  # fmt: skip
