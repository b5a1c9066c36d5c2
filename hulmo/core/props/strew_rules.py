"""Strew rules: where props stand of themselves, by the same conditions as ground rules."""

from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.ground.evaluate import rule_share
from hulmo.core.ground.rules import MOST_RULES, Condition, Rule, checked
from hulmo.core.ground.weights import WEIGHT
from hulmo.core.mesh.areas import triangle_areas
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.strewn import BY_RULE, MOST_STREWN, REMOVED, Strewn, anchors
from hulmo.core.progress import Progress
from hulmo.core.props.prop import Prop, PropMesh
from hulmo.core.props.strew import HOW, Tray, allowed, dressed, ground_column, in_triangles
from hulmo.core.props.tray import tray_of
from hulmo.core.setting import Values, complete, number

MIX = np.uint64(0x9E3779B97F4A7C15)
"""Of splitmix64 (Steele, Lea and Flood 2014)."""

Figures = NDArray[np.float64]


class StrewRule(msgspec.Struct, frozen=True):
    """One rule.

    Attributes
    ----------
    name : str
    shares : dict of str to float
        How often each prop of the tray is chosen, by name.
    settings : dict
        What differs from the defaults of `HOW`.
    conditions : tuple of Condition
        Where it acts; everywhere without any.
    shown : bool
    """

    name: str
    shares: dict[str, float]
    settings: dict[str, Any] = {}
    conditions: tuple[Condition, ...] = ()
    shown: bool = True


def check_strew_rules(rules: tuple[StrewRule, ...], where: str) -> tuple[StrewRule, ...]:
    """The rules with checked conditions.

    Raises
    ------
    InvalidInput
    """
    if len(rules) > MOST_RULES:
        raise InvalidInput(f"{where}: {len(rules)} strew rules; there can be {MOST_RULES}")
    if len({rule.name for rule in rules}) < len(rules):
        raise InvalidInput(f"{where}: two strew rules share a name")
    for rule in rules:
        complete(HOW, rule.settings, f"{where}: strew rule {rule.name!r}")
    stood_in = checked(tuple(Rule("any", rule.conditions) for rule in rules), f"{where}: strew rules")
    return tuple(
        msgspec.structs.replace(rule, conditions=done.conditions) for rule, done in zip(rules, stood_in, strict=True)
    )


def laid_props(
    body: Body, grounds: tuple[str, ...], props: tuple[Prop, ...], kept: dict[str, PropMesh], progress: Progress
) -> Strewn:
    """All props of a body as its rules would have them: those set by hand stay, what was taken away stays away.

    Raises
    ------
    InvalidInput
        A rule asks for what is not there, or for far too many.
    """
    old = body.strewn if body.strewn is not None else Strewn.none()
    out = old.taken(old.mark != BY_RULE)
    gone = out.taken(out.mark == REMOVED)
    gone_at = anchors(body, gone)[0]
    names = [prop.name for prop in props]
    for done, rule in enumerate(body.strew_rules):
        progress.step(done / max(1, len(body.strew_rules)), f"strewing {rule.name}")
        shares = {name: share for name, share in rule.shares.items() if name in names}
        if not rule.shown or not any(share > 0 for share in shares.values()):
            continue
        values = complete(HOW, rule.settings, f"strew rule {rule.name!r}")
        tray = tray_of(props, kept, shares)
        found = _candidates(body, grounds, rule, values, tray, progress)
        found = found.taken(allowed(body, found, values, ground_column(grounds, values)))
        if gone.count and found.count:
            found = found.taken(~_near(anchors(body, found)[0], gone_at, tray))
        progress.step((done + 0.6) / len(body.strew_rules), f"strewing {rule.name}")
        out = out.joined(found.taken(tray.room(body, number(values, "spacing")).kept(out, found)))
        if out.count > MOST_STREWN:
            raise InvalidInput(f"strew rule {rule.name!r}: a body can carry {MOST_STREWN:,} props; ask for fewer")
    return out


def _candidates(
    body: Body, grounds: tuple[str, ...], rule: StrewRule, values: Values, tray: Tray, progress: Progress
) -> Strewn:
    # the same triangle gets the same places whatever happens elsewhere, so that sculpting moves nothing far away
    slots = np.flatnonzero(body.corners.triangles[:, 0] >= 0).astype(np.int32)
    weight, share = triangle_areas(body.vertices["position"][body.corners.triangles[slots]]), None
    if rule.conditions:
        rows = np.arange(body.vertices.count, dtype=np.int32)
        stood_in = Rule("any", rule.conditions)
        below = body.vertices.get(WEIGHT)
        share = rule_share(stood_in, body.view(), grounds, rows, below, progress.part(0.1, 0.5))
        weight = weight * share[body.corners.triangles[slots]].max(axis=1)
    seed = int(number(values, "seed"))
    wanted = number(values, "density") * weight
    total = float(wanted.sum())
    if total > 2 * MOST_STREWN:
        raise InvalidInput(
            f"strew rule {rule.name!r}: {total:,.0f} props would be tried; {MOST_STREWN:,} can stand on a body; lower its "
            "density"
        )
    count = np.floor(wanted + _hashed(slots, 0, seed)).astype(np.int64)
    which = np.repeat(slots, count)
    number_ = np.arange(which.size) - np.repeat(np.cumsum(count) - count, count)
    two = np.stack((_hashed(which, 1 + 4 * number_, seed), _hashed(which, 2 + 4 * number_, seed)), axis=1)
    order = np.argsort(_hashed(which, 3 + 4 * number_, seed), kind="stable")
    which, two, number_ = which[order], two[order], number_[order]
    if share is not None:  # as many as the condition holds there, between the corners of a triangle as well
        corner = share[body.corners.triangles[which]].astype(np.float64)
        inner = in_triangles(two)
        here = corner[:, 0] * (1.0 - inner.sum(axis=1)) + corner[:, 1] * inner[:, 0] + corner[:, 2] * inner[:, 1]
        most = np.maximum(corner.max(axis=1), 1e-9)
        kept = _hashed(which, 4 + 4 * number_, seed + 1) < here / most
        which, two, number_ = which[kept], two[kept], number_[kept]
    hashes: Any = _Hashes(which, number_, seed)
    return dressed(hashes, (which, in_triangles(two)), tray, values, BY_RULE)


class _Hashes:
    # stands in for a generator: numbers that hang on the triangle and the number of the place on it alone

    def __init__(self, slot: NDArray[np.integer], number_: NDArray[np.integer], seed: int) -> None:
        self._slot, self._number, self._seed, self._turn = slot, number_, seed, 0

    def random(self, count: int) -> Figures:
        self._turn += 1
        assert count == self._slot.size
        return _hashed(self._slot, 1000 * self._turn + self._number, self._seed)


def _hashed(slot: NDArray[np.integer], number_: NDArray[np.integer] | int, seed: int) -> Figures:
    # numbers evenly over 0 to 1
    with np.errstate(over="ignore"):
        x = slot.astype(np.uint64) * np.uint64(0x2545F4914F6CDD1D) + np.asarray(number_).astype(np.uint64) * MIX
        x += np.uint64(seed) * np.uint64(0xD1342543DE82EF95) + MIX
        x = (x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        x = (x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        x ^= x >> np.uint64(31)
    return np.asarray((x >> np.uint64(11)).astype(np.float64) / 9007199254740992.0)


def _near(places: Figures, gone: Figures, tray: Tray) -> NDArray[np.bool_]:
    # what would stand where something was taken away
    from scipy.spatial import cKDTree

    reach = max(mesh.radius for mesh in tray.meshes.values())
    away, _ = cKDTree(gone).query(places, distance_upper_bound=0.75 * reach)
    return np.asarray(np.isfinite(away))
