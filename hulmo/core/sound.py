"""What must hold of a project: asked when one is opened, when one is saved, and of every edit before it is applied.

What can be saved can be opened, because both ask here.
"""

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from hulmo.core.attributes import SLACK, attribute_of
from hulmo.core.dress.light import check_light
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.ground.check_ground import check_blend, check_ground
from hulmo.core.ground.ground import MOST_GROUNDS
from hulmo.core.ground.library import PARTS, shipped
from hulmo.core.ground.rules import KEPT, checked
from hulmo.core.ground.weights import HAND, RULED, WEIGHT
from hulmo.core.mesh.agreed import edges_differ
from hulmo.core.mesh.attribute import ANY, GROUNDS
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.down import check_down
from hulmo.core.mesh.layer import MOST_LAYERS, RELIEF, REST, STRONGEST
from hulmo.core.mesh.origin import check_place
from hulmo.core.mesh.soundness import off_total, outside, wrong_triangle
from hulmo.core.mesh.strewn import MOST_STREWN, REMOVED
from hulmo.core.mesh.vertex_table import VertexTable
from hulmo.core.objects import KINDS
from hulmo.core.objects.scene_object import check_objects
from hulmo.core.project import Project
from hulmo.core.props.strew_rules import check_strew_rules
from hulmo.core.props.tray import check_tray
from hulmo.core.waiver import check_waivers
from hulmo.core.workers import WORKERS

MOST_LETTERS = 1000
"""Letters of a name."""

MOST_COLUMNS = 256
"""Vertex columns of a body."""

WIDEST = 64
"""Numbers of one row of a column."""

COMPOSED = 1e-4
"""Share of a body's extent that positions may be off from what its layers add up to."""

Values = NDArray[np.float32]


def check_project(project: Project, threads: int = WORKERS) -> None:
    """All that must hold of a project, down to every number of its tables, by some threads side by side.

    Raises
    ------
    InvalidInput
        What is wrong, and where.
    """
    check_build(project)
    for body in project.bodies:
        check_tables(body.vertices, body.corners, len(project.grounds), f"body {body.name!r}", threads)
        check_composed(body)
        check_strewn(body)


def check_build(project: Project) -> None:
    """What must hold of a project's parts and how they fit together, the numbers in its tables aside. Costs next to nothing.

    Raises
    ------
    InvalidInput
    """
    check_scene(project)
    _check_apart([body.name for body in project.bodies], "bodies")
    if len({body.ident for body in project.bodies}) < len(project.bodies):
        raise InvalidInput("two bodies share a number")
    idents = {prop.ident for prop in project.props}
    for body in project.bodies:
        _check_name(body.name, "a body")
        check_body(body, len(project.grounds))
        if body.strewn is not None and not idents.issuperset(np.unique(body.strewn.prop).tolist()):
            raise InvalidInput(f"body {body.name!r}: a prop stands on it that the tray does not have")


def check_scene(project: Project) -> None:
    """What must hold of all that is no body.

    Raises
    ------
    InvalidInput
    """
    _check_name(project.name, "the project")
    check_waivers(project.waivers, "the project")
    if not 1 <= len(project.grounds) <= MOST_GROUNDS:
        raise InvalidInput(f"{len(project.grounds)} grounds; a project has 1 to {MOST_GROUNDS}")
    for number, ground in enumerate(project.grounds):
        _check_name(ground.name, f"ground {number + 1}")
        check_ground(ground, project.grounds[:number], f"ground {ground.name!r}")
        if ground.texture and ground.texture not in shipped() and ground.texture not in project.textures:
            raise InvalidInput(
                f"ground {ground.name!r}: its texture set {ground.texture!r} is neither in the project nor in the shipped "
                "library; give the ground another one"
            )
    check_blend(project.blend, "blend of grounds")
    check_light(project.light, "light")
    if project.sky is not None:
        _check_name(project.sky.name, "the picture of the sky")
        if not np.isfinite(project.sky.light).all() or (project.sky.light < 0).any():
            raise InvalidInput("the picture of the sky holds what is no light; take it away")
    check_objects(project.objects, "object")
    for entry in project.objects:
        _check_name(entry.name, "an object of the scene")
        if entry.kind in KINDS:
            KINDS[entry.kind].check(entry, KINDS[entry.kind].label.lower())
    _check_apart([entry.name for entry in project.objects], "objects of the scene")
    check_tray(project.props, project.prop_meshes, "tray")
    for name, parts in project.textures.items():
        _check_name(name, "a texture set")
        if not set(parts) <= set(PARTS) or "albedo" not in parts:
            raise InvalidInput(
                f"texture set {name!r} has {', '.join(parts) or 'no parts'}; parts are {', '.join(PARTS)}"
            )
    for name, files in project.sources.items():
        for file in files.values():
            check_text(file, f"a file of texture set {name!r}")


def check_strewn(body: Body) -> None:
    """What must hold of the props on a body.

    Raises
    ------
    InvalidInput
    """
    strewn, where = body.strewn, f"body {body.name!r}: its props"
    check_strew_rules(body.strew_rules, f"body {body.name!r}")
    if strewn is None:
        return
    if strewn.count > MOST_STREWN:
        raise InvalidInput(f"{where} are {strewn.count:,}; {MOST_STREWN:,} can stand on a body")
    there = (strewn.slot >= 0) & (strewn.slot < body.corners.count)
    there[there] = body.corners.triangles[strewn.slot[there], 0] >= 0
    if not there.all():
        raise InvalidInput(f"{where}: prop {int(np.flatnonzero(~there)[0])} stands on a triangle that is not there")
    for name, low, high in (("weight", -0.01, 1.01), ("turn", -1e6, 1e6), ("size", 1e-6, 1e6), ("lean", -10.0, 10.0),
                            ("sink", -1e5, 1e5), ("upright", 0.0, 1.0), ("mark", 0, REMOVED)):  # fmt: skip
        values = getattr(strewn, name)
        if not ((values >= low) & (values <= high)).all():
            raise InvalidInput(f"{where}: their {name} holds a number outside {low:g} to {high:g}")


def check_body(body: Body, grounds: int) -> None:
    """What must hold of how a body is built, but for the numbers in its tables.

    Raises
    ------
    InvalidInput
    """
    where = f"body {body.name!r}"
    vertices, corners = body.vertices, body.corners
    if body.ident < 0:
        raise InvalidInput(f"{where}: its number is {body.ident}; numbers are not negative")
    if vertices.count != corners.first_corner.size:
        raise InvalidInput(f"{where}: its two tables are not of the same mesh")
    if not 0 <= body.base < grounds:
        raise InvalidInput(f"{where} stands on ground {body.base}, which is not in the palette")
    check_place(body.origin, f"{where}: its origin")
    check_down(body.down, f"{where}: its down")
    if len(vertices.names) > MOST_COLUMNS:
        raise InvalidInput(f"{where} has {len(vertices.names)} vertex columns; there can be {MOST_COLUMNS}")
    if corners.slots.count != corners.count:
        raise InvalidInput(f"{where}: what is known of its triangles is of other ones")
    if len(corners.slots.names()) > MOST_COLUMNS:
        raise InvalidInput(f"{where}: {len(corners.slots.names())} columns of triangles; there can be {MOST_COLUMNS}")
    for domain, name, width in corners.slots.layout():
        check_width(name, width, grounds, where, domain)
    for name in vertices.names:
        check_width(name, vertices.width(name), grounds, where)
    for name in ("position", *((WEIGHT,) if HAND in vertices or RULED in vertices else ())):
        if name not in vertices:
            raise InvalidInput(f"{where} needs a column {name!r}")
    if len(body.layers) > MOST_LAYERS:
        raise InvalidInput(f"{where} has {len(body.layers)} relief layers; there can be {MOST_LAYERS}")
    _check_apart([layer.name for layer in body.layers], f"relief layers of {where}")
    columns = {layer.column for layer in body.layers}
    if len(columns) < len(body.layers):
        raise InvalidInput(f"{where}: two relief layers share a number")
    there = {name for name in vertices.names if name.startswith(RELIEF) or name == REST}
    if there != columns | ({REST} if columns else set()):
        odd = sorted(there ^ (columns | ({REST} if columns else set())))
        raise InvalidInput(f"{where}: the column {odd[0]!r} and the list of relief layers do not go together")
    for layer in body.layers:
        _check_name(layer.name, f"a relief layer of {where}")
        if not -STRONGEST <= layer.strength <= STRONGEST:
            raise InvalidInput(f"{where}: layer {layer.name!r} has a strength beyond -2 to 2")
    if checked(body.rules, where) != body.rules:
        raise InvalidInput(f"{where}: two conditions of its rules share a number")
    if (RULED in vertices) != bool(body.rules):
        raise InvalidInput(f"{where}: ground rules and the column {RULED!r} go together; only one of them is there")
    idents = {f"{KEPT}{condition.ident}" for rule in body.rules for condition in rule.conditions}
    for name in vertices.names:
        if name.startswith(KEPT) and name not in idents:
            raise InvalidInput(f"{where}: no condition of a rule asks for the column {name!r}")


def check_tables(vertices: VertexTable, corners: CornerTable, grounds: int, where: str, threads: int = WORKERS) -> None:
    """What must hold of the numbers in both tables of a body, rows without a vertex aside.

    Raises
    ------
    InvalidInput
    """
    live = corners.first_corner >= 0 if vertices.free.count else None
    for name in vertices.names:
        values = vertices[name]
        check_width(name, vertices.width(name), grounds, where)
        if attribute_of(name).kept:
            check_values(name, values if live is None else values[live], where)
    slot = wrong_triangle(corners, threads)
    if slot >= 0:
        raise InvalidInput(f"{where}: triangle {slot}: the surface there is no manifold of one winding")
    for domain, name, width in corners.slots.layout():
        check_width(name, width, grounds, where, domain)
        values = corners.slots[name]
        check_slot_values(domain, name, values[corners.triangles[:, 0] >= 0] if corners.free.count else values, where)
        if domain == "edge":
            check_edges_agree(corners, name, slice(0, corners.count), where)


def check_slot_values(domain: str, name: str, values: Values, where: str) -> None:
    """What must hold of the numbers of an attribute of faces, corners or edges, (K, 1 or 3, width).

    Raises
    ------
    InvalidInput
    """
    check_values(name, np.ascontiguousarray(values).reshape(values.shape[0], np.prod(values.shape[1:])), where, domain)


def check_edges_agree(corners: CornerTable, name: str, slots: NDArray[np.int32] | slice, where: str) -> None:
    """That both triangles at every edge of some slots say the same of it.

    Raises
    ------
    InvalidInput
    """
    values = corners.slots[name]
    rows = np.arange(*slots.indices(corners.count), dtype=np.int32) if isinstance(slots, slice) else slots
    if edges_differ(corners.opposite, values, np.ascontiguousarray(rows, np.int32)):
        raise InvalidInput(f"{where}: {name}: the two triangles at an edge do not say the same of it")


def check_values(name: str, values: Values, where: str, domain: str = "vertex") -> None:
    """What must hold of the numbers of an attribute.

    Raises
    ------
    InvalidInput
        Which attribute, at which row.
    """
    attribute = attribute_of(name, domain)
    if outside(values, attribute.low, attribute.high):
        rows = values.reshape(values.shape[0], -1)
        with np.errstate(invalid="ignore"):
            bad = ~((rows >= np.float32(attribute.low)) & (rows <= np.float32(attribute.high))).all(axis=1)
        row = int(np.flatnonzero(bad)[0])
        value = rows[row][~((rows[row] >= attribute.low) & (rows[row] <= attribute.high))][0]
        what = "that is not finite" if not np.isfinite(value) else f"outside {attribute.low:g} to {attribute.high:g}"
        raise InvalidInput(f"{where}: {name} holds a number {what} ({value:g} at row {row})")
    if attribute.total and off_total(values, SLACK, attribute.total == "most"):
        raise InvalidInput(f"{where}: {name}: the shares of a vertex do not sum to 1")


def check_composed(body: Body) -> None:
    """That positions are what the relief layers of a body add up to.

    Raises
    ------
    InvalidInput
    """
    if not body.layers:
        return
    off = body.off_composed()
    position = body.vertices["position"]
    extent = float(np.abs(position).max(initial=1.0))
    if off > COMPOSED * max(extent, 1.0):
        raise InvalidInput(
            f"body {body.name!r}: its positions are up to {off:g} m off from what its relief layers add up to"
        )


def check_width(name: str, width: int, grounds: int, where: str, domain: str = "vertex") -> None:
    """Refuse a column of a width that it cannot have.

    Raises
    ------
    InvalidInput
    """
    wanted = attribute_of(name, domain).width
    wanted = grounds if wanted == GROUNDS else wanted
    if wanted != ANY and width != wanted:
        raise InvalidInput(f"{where}: the column {name!r} has width {width}; it needs {wanted}")
    if not 1 <= width <= WIDEST:
        raise InvalidInput(f"{where}: the column {name!r} has width {width}; it can have 1 to {WIDEST}")


def _check_name(name: str, what: str) -> None:
    if not name.strip():
        raise InvalidInput(f"{what} needs a name")
    if len(name) > MOST_LETTERS:
        raise InvalidInput(f"the name of {what} has {len(name):,} letters; it can have {MOST_LETTERS:,}")
    check_text(name, what)


def check_text(text: str, what: str) -> None:
    """Refuse a text that no file can hold or be named by: half of a pair of UTF-16, as names of files in other encodings
    have it, or the letter that ends a name.

    Raises
    ------
    InvalidInput
    """
    try:
        text.encode()
    except UnicodeEncodeError as error:
        raise InvalidInput(f"{what}: {text!r} is no text in UTF-8; rename the file or folder it comes from") from error
    if "\0" in text:
        raise InvalidInput(f"{what}: {shown(text)} holds the letter 0, which no name may; leave it out")


def _check_apart(names: Iterable[str], what: str) -> None:
    seen: set[str] = set()
    for name in names:
        if name in seen:
            raise InvalidInput(f"two {what} share the name {name!r}")
        seen.add(name)
