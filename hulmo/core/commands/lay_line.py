"""What an outline or a track carries, laid on its body: edges, relief, and ground by rule."""

import msgspec
import numpy as np

from hulmo.core.commands.cut_line import cut_line, inward_from
from hulmo.core.commands.layers import held_share, new_layer
from hulmo.core.commands.line_piece import line_piece
from hulmo.core.commands.rules import ruled_deltas
from hulmo.core.commands.settle_line import settled, worth_settling
from hulmo.core.edit import BodyDelta, ColumnDelta, Delta, LayersDelta, SlotColumnDelta, TablesDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.follow import columns_delta, laid_anew, laid_around
from hulmo.core.ground.rules import Condition, Rule, checked
from hulmo.core.ground.weights import tidied, weights_of
from hulmo.core.lines.field import Inward
from hulmo.core.lines.ground import Ground
from hulmo.core.lines.relief import rises
from hulmo.core.lines.trace import Trace, trace
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import REST, Layer
from hulmo.core.objects.line import CUT, FEWEST, Line, Place, column_of, line_of, settings_of, with_line
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name
from hulmo.core.setting import Values, number

CRISP = 1e-3
"""Metres outside the rim that count as on it where a ground ends crisply."""

FAR_OFF, BEYOND, CLOSE = 0.25, 0.01, 2.0
"""Shares of the size of a line, and metres more, that its points may lie off the body, and beyond its border."""


def laid_line(
    project: Project, body: Body, old: SceneObject | None, new: SceneObject, where: str, progress: Progress,
    whole: bool = False,
) -> tuple[list[Delta], SceneObject]:  # fmt: skip
    """Deltas after which all that a line carries lies as it says, and the line with its points where they have come to lie.

    Parameters
    ----------
    old : SceneObject or None
        The line as it is; None where it is new.
    whole : bool
        Whether the body is worked on as a whole where a piece of it would do.

    Raises
    ------
    InvalidInput
        It cannot be traced, cut or shaped.
    """
    line, values = line_of(new), settings_of(new, line_of(new))
    if body.locked:
        raise InvalidInput(f"{where}: the body {body.name!r} is locked; unlock it first")
    if len(line.points) < FEWEST[new.kind]:
        if old is not None and column_of(new) in body.vertices:
            raise InvalidInput(
                f"{where}: {new.name!r} needs {FEWEST[new.kind]} points or more; take the line away instead"
            )
        return [], _on(body, new, line)
    weights_of(body, len(project.grounds))
    layer = next((entry for entry in body.layers if entry.ident == line.layer), None)
    if layer is not None and layer.locked:
        raise InvalidInput(f"{where}: the relief layer {layer.name!r} is locked; unlock it first")
    _refuse_far(body, new, line, where)
    below = _below(body, layer)
    base = Ground.of(body, below)
    mapped = _mapped(body, line, Ground.of(body), below)
    there = with_line(new, mapped)
    progress.step(0.1, "tracing the line")
    course = trace(base, there)
    cuts = _cuts_anew(body, old, new, line, values)
    cut_before = _cut_before(body, base, old, new, values) if cuts else None
    piece = line_piece(body, base, cut_before, course, new, values) if cuts and not whole else None
    part, turned = body, None
    if piece is not None:
        part, base, course, turned = piece.body, piece.base, piece.course, piece.turned
    work = part.view()
    work.layers = ()  # until its relief is laid, positions are those below it
    for name in ("position", "normal"):  # written in place below
        work.vertices.set_column(name, part.vertices[name].copy())
    found: Inward | None = None
    if cuts:
        cut = cut_line(part, base, cut_before, course, new, values, where, progress, turned)
        work.vertices, work.corners, found, fresh = cut.vertices, cut.corners, cut.found, cut.fresh
        work.replaced()
        below = work.vertices["position"].copy()  # still so; the relief of the line comes on top of it
        base = Ground(below, work.vertices["normal"], work.corners)
    shaped = layer is not None or bool(values["relief"])
    if not shaped:
        line = mapped
    progress.step(0.6, "measuring")
    if found is None:
        course = course.on(base) if cuts else course
        found, _ = inward_from(part, base, course, new, values, turned)
    if (values["ground"] or values["relief"]) and not (found.inward >= 0).any():
        raise InvalidInput(
            f"{where}: {new.name!r} is narrower than the triangles it lies on, so nothing would change; let it cut edges, "
            "widen it, or divide the triangles"
        )
    before = work.vertices.get(layer.column) if layer is not None else None
    deltas, layers, line = _relief(body, work, base, course, found, layer, line, new, values, cuts, where)
    column = column_of(new)
    work.vertices.set_column(column, found.inward[:, None].astype(np.float32))
    rules = _rules(project, body, new, values, where)
    if rules != body.rules:
        deltas.append(BodyDelta(body.ident, "rules", body.rules, rules))
    work.rules = rules
    work.layers = layers
    if layers:
        work.compose(slice(None))
    elif cuts and body.layers:
        work.vertices["position"][:] = base.position
    if cuts and values["relief"]:
        zone = found.near & (found.inward > -number(values, "shoulder") - number(values, "width"))
        if layer is not None and before is not None:
            zone = worth_settling(work, base.position, zone, fresh, work.vertices[layer.column] - before)
        work.vertices, work.corners = settled(work.vertices, work.corners, layers, base.position, zone)
        work.replaced()
    else:
        work.all_moved()
    if shaped:  # exactly on the surface as it has become, so that whoever asks again finds the same places below
        below = _below(work, next((entry for entry in layers if entry.ident == line.layer), None))
        under = Ground(below, work.vertices["normal"], work.corners, work.index.over(work.corners.vertex, below))
        line = _moved_points(line, work.vertices["position"], under, under.nearest(mapped.array))
    if cuts:
        tidied(work.vertices)
    if piece is not None:
        joined = piece.put_back(work, column, layer.column if layer is not None and values["relief"] else "")
        if joined is None:
            return laid_line(project, body, old, new, where, progress, True)
        work, moved, near = joined
    if rules:
        progress.step(0.8, "laying ground rules")
        if piece is not None and rules == body.rules:
            laid_around(work, project.ground_names, moved, near, progress.part(0.8, 1.0))
        else:
            laid_anew(work, project.ground_names, progress.part(0.8, 1.0))
    if cuts:
        tables = work.vertices, work.corners
        deltas.append(TablesDelta(body.ident, (body.vertices, body.corners), tables, work.index))
    else:
        before = body.vertices[column].copy() if column in body.vertices else None
        deltas.append(ColumnDelta(body.ident, column, before, work.vertices[column].copy()))
        if rules:
            deltas += columns_delta(body, work)
    return deltas, with_line(new, line)


def taken_away(project: Project, body: Body, entry: SceneObject, progress: Progress) -> list[Delta]:
    """Deltas after which a body has nothing any more of what a line carries."""
    line = line_of(entry)
    deltas: list[Delta] = []
    work = body.copy()
    layer = next((found for found in body.layers if found.ident == line.layer), None)
    if layer is not None:
        layers = tuple(found for found in body.layers if found is not layer)
        columns = {layer.column: (body.vertices[layer.column].copy(), None)}
        deltas.append(LayersDelta(body.ident, body.layers, layers, columns))
        work.set_layers(layers, {layer.column: None})
    marked = body.corners.slots.get(CUT)
    if marked is not None and (marked == entry.ident).any():
        after = np.where(marked == entry.ident, np.float32(0.0), marked)
        deltas.append(SlotColumnDelta(body.ident, "edge", CUT, marked.copy(), after if after.any() else None))
    column = column_of(entry)
    if column in body.vertices:
        deltas.append(ColumnDelta(body.ident, column, body.vertices[column].copy(), None))
        work.vertices.drop_column(column)
    rules = tuple(rule for rule in body.rules if not _of_line(rule, entry.ident))
    if rules != body.rules:
        weights_of(body, len(project.grounds))
        deltas += ruled_deltas(project, work, rules, body.base, progress)
    elif rules and layer is not None:
        laid_anew(work, project.ground_names, progress)
        deltas += columns_delta(body, work)
    return deltas


def _moved_points(line: Line, position: np.ndarray, base: Ground, anchor: tuple[np.ndarray, np.ndarray]) -> Line:
    # points as they lie on other positions of the same triangles
    triangle, weight = anchor
    places = base.blend(position, triangle, weight).tolist()
    points = tuple(
        Place((x, y, z), place.corner, place.width) for (x, y, z), place in zip(places, line.points, strict=True)
    )
    return msgspec.structs.replace(line, points=points)


def _refuse_far(body: Body, entry: SceneObject, line: Line, where: str) -> None:
    # a point next to the body is put on it; one far off is none of it
    size = float(np.linalg.norm(np.ptp(line.array, axis=0)))
    away = np.zeros(len(line.points))
    for i, place in enumerate(line.array):
        found = body.own_nearest(place)
        if found is None:
            continue
        away[i] = found.distance
        across = body.corners.opposite[3 * found.triangle : 3 * found.triangle + 3]
        if ((across < 0) & (found.weights < 1e-6)).any() and found.distance > BEYOND * size + CLOSE / 100:
            raise InvalidInput(
                f"{where}: point {i + 1} of {entry.name!r} lies {found.distance:.3g} m beyond the border of {body.name!r}; "
                "move it inward"
            )
    if away.max() > FAR_OFF * size + CLOSE:
        i = int(away.argmax())
        raise InvalidInput(f"{where}: point {i + 1} of {entry.name!r} lies {away[i]:.3g} m off the body; move it there")


def _on(body: Body, entry: SceneObject, line: Line) -> SceneObject:
    # points of a line that carries nothing yet, on the surface
    if not line.points:
        return entry
    ground = Ground.of(body)
    return with_line(entry, _moved_points(line, ground.position, ground, ground.nearest(line.array)))


def _below(body: Body, layer: Layer | None) -> np.ndarray:
    if layer is None:
        return body.vertices["position"]
    place = body.layers.index(layer)
    return body.surface(body.layers[place - 1] if place else None)


def _mapped(body: Body, line: Line, seen: Ground, below: np.ndarray) -> Line:
    # the points as they lie on the surface below the line's own layer
    return _moved_points(line, below, seen, seen.nearest(line.array))


def _cuts_anew(body: Body, old: SceneObject | None, new: SceneObject, line: Line, values: Values) -> bool:
    marked = body.corners.slots.get(CUT)
    has = marked is not None and bool((marked == new.ident).any())
    if not values["cut"]:
        return has
    if old is None or not has:
        return True
    return line_of(old).points != line.points or _otherwise(old, values)


def _otherwise(old: SceneObject, values: Values) -> bool:
    known = settings_of(old, line_of(old))
    what = ("cut", "tolerance", "rows", "width", "level")
    return any(known[name] != values[name] for name in what)


def _cut_before(body: Body, base: Ground, old: SceneObject | None, new: SceneObject, values: Values) -> Trace | None:
    # the course of a line as it is cut now, if it is to be cut the same way again
    if old is None or new.kind != old.kind or not values["cut"] or _otherwise(old, values):
        return None
    line = line_of(old)
    if len(line.points) < FEWEST[old.kind]:
        return None
    try:
        return trace(base, with_line(old, _mapped(body, line, Ground.of(body), base.position)))
    except InvalidInput:  # the ground has moved under it
        return None


def _relief(
    body: Body, work: Body, base: Ground, course: Trace, found: Inward, layer: Layer | None, line: Line,
    entry: SceneObject, values: Values, cut: bool, where: str,
) -> tuple[list[Delta], tuple[Layer, ...], Line]:  # fmt: skip
    # the layer that the line shapes: made, shaped anew, or taken away; written into `work`, told as deltas
    if not values["relief"]:
        if layer is None:
            return [], body.layers, line
        layers = tuple(found_ for found_ in body.layers if found_ is not layer)
        columns_: dict[str, tuple[np.ndarray | None, np.ndarray | None]] = {
            layer.column: (body.vertices[layer.column].copy(), None)
        }
        work.vertices.drop_column(layer.column)
        return [LayersDelta(body.ident, body.layers, layers, columns_)], layers, msgspec.structs.replace(line, layer=0)
    rise = rises(body, base.position, course, found, values)
    up = np.broadcast_to(body.up(base.position), base.position.shape)
    offsets = up * rise[:, None]
    work.layers = body.layers
    held = held_share(work)
    old = work.vertices.get(layer.column) if layer is not None else None
    offsets = offsets * (1 - held[:, None]) + (0.0 if old is None else held[:, None] * old)
    if not np.isfinite(offsets).all():
        raise InvalidInput(f"{where}: the profile gives heights that are not finite; choose smaller ones")
    offsets = np.ascontiguousarray(offsets, np.float32)
    layers = body.layers
    columns: dict[str, tuple[np.ndarray | None, np.ndarray | None]] = {}
    if layer is None:
        layer = new_layer(body, "", where)
        layer = msgspec.structs.replace(layer, name=free_name(entry.name, [found_.name for found_ in body.layers]))
        layers = (*body.layers, layer)
        line = msgspec.structs.replace(line, layer=layer.ident)
        first = np.zeros((body.vertices.count, 3), np.float32) if cut else offsets
        columns = {layer.column: (None, first)}
    elif not cut:
        columns = {layer.column: (body.vertices[layer.column].copy(), offsets)}
    if not body.layers:
        work.vertices.set_column(REST, base.position.copy())
    work.vertices.set_column(layer.column, offsets)
    if layers is body.layers and not columns:
        return [], layers, line
    return [LayersDelta(body.ident, body.layers, layers, columns)], layers, line


def _of_line(rule: Rule, ident: int) -> bool:
    return (
        bool(rule.conditions)
        and rule.conditions[0].measure == "line"
        and (int(rule.conditions[0].settings.get("line", 0)) == ident)
    )


def _rules(project: Project, body: Body, entry: SceneObject, values: Values, where: str) -> tuple[Rule, ...]:
    # the rules of a body with that of the line: as its ground says, or none
    ground, rim = str(values["ground"]), number(values, "rim")
    if not ground:
        return tuple(rule for rule in body.rules if not _of_line(rule, entry.ident))
    project.ground_named(ground, where)
    low, soft = (rim / 2, rim) if rim > 0 else (-CRISP, 0.0)
    condition = Condition("line", {"line": entry.ident}, low=low, low_soft=soft)
    out, found = [], False
    for rule in body.rules:
        if _of_line(rule, entry.ident) and not found:
            found = True
            first = msgspec.structs.replace(rule.conditions[0], low=low, low_soft=soft)
            rule = msgspec.structs.replace(rule, ground=ground, conditions=(first, *rule.conditions[1:]))
        out.append(rule)
    if not found:
        out.append(Rule(ground, (condition,)))
    return checked(tuple(out), where)
