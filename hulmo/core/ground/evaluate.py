"""What the ground rules of a body say."""

from collections.abc import Container

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.marked import marked_names
from hulmo.core.ground.measures import MEASURES, Asked
from hulmo.core.ground.quantise import quantise
from hulmo.core.ground.rules import Condition, Rule, groups_of, problems
from hulmo.core.ground.weights import filled
from hulmo.core.mesh.body import Body
from hulmo.core.progress import Progress, silent

Rows = NDArray[np.int32]
Weights = NDArray[np.float32]
Figures = NDArray[np.float32]

MOSTLY = 0.6
"""Share of the rows up to which a figure is taken for some of them only."""

PIECE = 50
"""Vertices of each of the pieces of surface that stand for all of it: near their rims a measure is rough."""

STEPS = 4096
"""Weights by rules are whole shares of this many, so that they add up exactly and files pack them well."""


def evaluate(
    body: Body,
    grounds: tuple[str, ...],
    rows: Rows | None = None,
    progress: Progress | None = None,
    anew: Container[int] = (),
    rough: float = 0.0,
) -> Weights:
    """Weights by the rules of a body.

    Parameters
    ----------
    body : Body
    grounds : tuple of str
        Names of the palette.
    rows : (K,) int32, optional
        Ascending; all rows when left out.
    progress : Progress, optional
    anew : container of int
        Conditions, by number, whose figures are taken again although they are kept; only for all rows.
    rough : float
        Mean edge of the body, metres, where a rough outcome is enough because it will be asked for again; 0 otherwise.

    Returns
    -------
    (K, G) float32
        They sum to 1. From the base ground everywhere, every rule takes its share of what lies there:
        w = (1 - s) w + s e, with s its strength times how far its conditions hold, and e all of its ground.

    Notes
    -----
    Figures that are taken once and not there yet are taken and kept in a column of the body, and so only for all rows.
    """
    progress = progress or silent()
    whole = rows is None
    if rows is None:
        rows = np.arange(body.vertices.count, dtype=np.int32)
    out = filled(rows.size, len(grounds), body.base)
    rules = laid(body, grounds)
    known: dict[object, Figures] = {}
    for number, rule in enumerate(rules):
        part = progress.part(number / len(rules), (number + 1) / len(rules))
        share = rule_share(rule, body, grounds, rows, out if whole else None, part, anew, rough, known)
        share *= np.float32(rule.strength)
        out *= (np.float32(1.0) - share)[:, None]
        out[:, grounds.index(rule.ground)] += share
    if not rules:
        return out
    return quantise(out, STEPS)[:, : len(grounds)].astype(np.float32) * np.float32(1.0 / STEPS)


def laid(body: Body, grounds: tuple[str, ...]) -> list[Rule]:
    """Rules of a body that count: shown, and with all that they name there."""
    marked = marked_names(body)
    return [rule for rule in body.rules if rule.shown and not problems((rule,), grounds, marked)]


def rule_share(
    rule: Rule,
    body: Body,
    grounds: tuple[str, ...],
    rows: Rows,
    below: Weights | None,
    progress: Progress,
    anew: Container[int] = (),
    rough: float = 0.0,
    known: dict[object, Figures] | None = None,
) -> Figures:
    """(K,) how far the conditions of a rule hold, 0 to 1; everywhere without any. `known` keeps figures of these rows."""
    known = {} if known is None else known
    total: Figures | None = None
    for join, group in groups_of(rule.conditions):
        if total is not None and join == "and" and not total.any() and not any(_is_kept(one) for one in group):
            continue
        held = _group_share(group, body, grounds, rows, below, progress, anew, rough, known)
        if total is None:
            total = held
        else:
            total = np.minimum(total, held) if join == "and" else np.maximum(total, held)
    return np.ones(rows.size, np.float32) if total is None else total


def _is_kept(condition: Condition) -> bool:
    return MEASURES[condition.measure].kept


def _group_share(
    conditions: tuple[Condition, ...],
    body: Body,
    grounds: tuple[str, ...],
    rows: Rows,
    below: Weights | None,
    progress: Progress,
    anew: Container[int],
    rough: float,
    known: dict[object, Figures],
) -> Figures:
    # (K,) how far the conditions of one group hold together
    total: Figures | None = None
    first = conditions[0]
    if all(condition.join == "and" for condition in conditions[1:]):
        # the least of all does not hang on their order: what costs little goes first
        conditions = tuple(sorted(conditions, key=lambda condition: MEASURES[condition.measure].cost))
    for condition in conditions:
        measure = MEASURES[condition.measure]
        joined = "and" if condition is first else condition.join  # whichever comes first begins
        if total is not None and joined == "and" and not measure.kept and not total.any():
            continue
        if total is not None and joined == "and" and measure.pointwise:
            # a figure that no neighbour shares is taken only where it matters
            there = np.flatnonzero(total > 0)
            if there.size < MOSTLY * rows.size:
                some = np.ascontiguousarray(rows[there])
                part = condition.share(figures(condition, body, grounds, some, None, progress))
                total[there] = np.minimum(total[there], part)
                continue
        key = _key(condition)
        if key not in known:
            known[key] = figures(condition, body, grounds, rows, below, progress, anew, rough)
        held = condition.share(known[key])
        if total is None:
            total = held
        else:
            total = np.minimum(total, held) if joined == "and" else np.maximum(total, held)
    assert total is not None, "a group has a condition"
    return total


def figures(
    condition: Condition,
    body: Body,
    grounds: tuple[str, ...],
    rows: Rows,
    below: Weights | None,
    progress: Progress,
    anew: Container[int] = (),
    rough: float = 0.0,
) -> Figures:
    """(K,) figures that a condition asks for, from the body's cache or its kept column where they are there."""
    measure = MEASURES[condition.measure]
    values = condition.values("rules")
    whole = rows.size == body.vertices.count
    key = _key(condition)
    if measure.kept:
        there = condition.column in body.vertices
        if whole and (condition.ident in anew or not there):
            found = measure.of(Asked(body, rows, values, grounds, below, progress))
            body.vertices.set_column(condition.column, found[:, None])
        elif not there:
            return np.zeros(rows.size, np.float32)
        return np.take(body.vertices[condition.column][:, 0], rows)
    if whole:
        if key not in body.figures:
            body.figures[key] = measure.of(Asked(body, rows, values, grounds, below, progress))
        return body.figures[key]
    return measure.of(Asked(body, rows, values, grounds, below, progress, rough))


def sample_figures(condition: Condition, body: Body, grounds: tuple[str, ...], most: int) -> Figures:
    """(K,) figures of a condition at about `most` vertices that stand for all of a body: how its figures are spread.

    A measure of the neighbourhood is taken on pieces of surface, since single vertices have no neighbours to ask.
    """
    live = np.flatnonzero(body.corners.first_corner >= 0).astype(np.int32)
    measure, key = MEASURES[condition.measure], _key(condition)
    rows = np.ascontiguousarray(live[:: max(1, live.size // most)])
    if key in body.figures:
        return np.take(body.figures[key], rows)
    asks_around = not measure.kept and measure.reach(condition.values("rules"), 1.0)[0] > 0
    if asks_around and rows.size < live.size:
        rows = np.ascontiguousarray(live[:: max(1, live.size // max(1, most // PIECE))])
        while rows.size < most:
            wider = body.touched(rows).around
            if wider.size == rows.size:
                break
            rows = wider
    return figures(condition, body, grounds, rows, None, silent())


def _key(condition: Condition) -> object:
    # conditions of the same key ask for the same figures; those that are kept are each their own
    kept = condition.ident if MEASURES[condition.measure].kept else 0
    return condition.measure, tuple(sorted(condition.values("rules").items())), kept


def reach_of(body: Body, grounds: tuple[str, ...], edge: float) -> tuple[float, float]:
    """Metres over the surface from which what has moved changes what the rules say, and how much further one must look."""
    conditions = [condition for rule in laid(body, grounds) for condition in rule.conditions]
    spans = [MEASURES[entry.measure].reach(entry.values("rules"), edge) for entry in conditions]
    return max((span[0] for span in spans), default=0.0), max((span[1] for span in spans), default=0.0)
