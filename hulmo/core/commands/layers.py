"""Relief layers: add, change, reorder, duplicate, merge, clear, remove, flatten."""

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, LayersDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import MOST_LAYERS, REST, STRONGEST, Layer
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name

Columns = dict[str, tuple[NDArray[np.float32] | None, NDArray[np.float32] | None]]


class AddLayer(Command, frozen=True, tag="add_layer"):
    """Add an empty relief layer on top of a body's others; an empty `name` gives it one.

    Attributes
    ----------
    name : str
        Empty: named by number.
    """

    body: str
    name: str = ""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "add_layer")
        layer = new_layer(body, self.name, "add_layer")
        flat = np.zeros((body.vertices.count, 3), np.float32)
        return Edit(f"Add layer {layer.name}", (with_layer(body, layer, flat),))


class ChangeLayer(Command, frozen=True, tag="change_layer"):
    """Change a relief layer: name, strength (-2 to 2), eye (`shown`), lock; what is None stays.

    Attributes
    ----------
    name, strength, shown, locked
        New name; -2 to 2, 1 as it was made; whether it counts; whether it is kept from being changed.
    """

    body: str
    layer: str
    name: str | None = None
    strength: float | None = None
    shown: bool | None = None
    locked: bool | None = None

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "change_layer")
        layer = body.layer_named(self.layer, "change_layer")
        if self.name is not None and self.name != self.layer:
            check_name(body, self.name, "change_layer")
        if self.strength is not None and not -STRONGEST <= self.strength <= STRONGEST:
            raise InvalidInput(
                f"change_layer: strength is {self.strength:g}; it must lie between -2 and 2 (-200 to 200 %)"
            )
        given = {key: getattr(self, key) for key in ("name", "strength", "shown", "locked")}
        changed = msgspec.structs.replace(layer, **{key: value for key, value in given.items() if value is not None})
        layers = tuple(changed if entry is layer else entry for entry in body.layers)
        words = {
            "name": f"Rename layer {layer.name} to {self.name}",
            "strength": f"Strength of layer {layer.name}: {100 * changed.strength:.4g} %",
            "shown": f"{'Show' if self.shown else 'Hide'} layer {layer.name}",
            "locked": f"{'Lock' if self.locked else 'Unlock'} layer {layer.name}",
        }
        what = [words[key] for key, value in given.items() if value is not None]
        label = what[0] if len(what) == 1 else f"Change layer {layer.name}"
        return Edit(label, (LayersDelta(body.ident, body.layers, layers),))


class MoveLayer(Command, frozen=True, tag="move_layer"):
    """Move a relief layer to another place in the order; 0 is the lowest, right above the form.

    Attributes
    ----------
    to : int
        0 is the lowest.
    """

    body: str
    layer: str
    to: int

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "move_layer")
        layer = body.layer_named(self.layer, "move_layer")
        if not 0 <= self.to < len(body.layers):
            raise InvalidInput(f"move_layer: there is no place {self.to}; places go from 0 to {len(body.layers) - 1}")
        rest = [entry for entry in body.layers if entry is not layer]
        rest.insert(self.to, layer)
        return Edit(f"Move layer {layer.name}", (LayersDelta(body.ident, body.layers, tuple(rest)),))


class DuplicateLayer(Command, frozen=True, tag="duplicate_layer"):
    """Put a copy of a relief layer right above it."""

    body: str
    layer: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "duplicate_layer")
        layer = body.layer_named(self.layer, "duplicate_layer")
        fresh = new_layer(body, free_name(layer.name, [entry.name for entry in body.layers]), "duplicate_layer")
        copy = msgspec.structs.replace(layer, ident=fresh.ident, name=fresh.name, locked=False)
        place = body.layers.index(layer) + 1
        layers = (*body.layers[:place], copy, *body.layers[place:])
        columns = {copy.column: (None, body.vertices[layer.column].copy())}
        return Edit(f"Duplicate layer {layer.name}", (LayersDelta(body.ident, body.layers, layers, columns),))


class MergeLayer(Command, frozen=True, tag="merge_layer"):
    """Merge a relief layer, at its strength, into the one below it, or into the form."""

    body: str
    layer: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "merge_layer")
        layer = body.layer_named(self.layer, "merge_layer")
        place = body.layers.index(layer)
        below = body.layers[place - 1] if place else None
        for entry in (layer, below):
            if entry is not None and entry.locked:
                raise InvalidInput(f"merge_layer: the relief layer {entry.name!r} is locked; unlock it first")
        if below is not None and below.share == 0 and layer.share != 0:
            raise InvalidInput(
                f"merge_layer: {below.name!r} below it does not show, so the shape would change; show it first"
            )
        columns: Columns = {layer.column: (body.vertices[layer.column].copy(), None)}
        column = REST if below is None else below.column
        if layer.share:
            share = layer.share if below is None else layer.share / below.share
            before = body.vertices[column].copy()
            columns[column] = (before, before + np.float32(share) * body.vertices[layer.column])
        layers = tuple(entry for entry in body.layers if entry is not layer)
        return Edit(f"Merge layer {layer.name}", (LayersDelta(body.ident, body.layers, layers, columns),))


class ClearLayer(Command, frozen=True, tag="clear_layer"):
    """Take everything off a relief layer and keep it."""

    body: str
    layer: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "clear_layer")
        layer = body.layer_named(self.layer, "clear_layer")
        _check_unlocked(layer, "clear_layer")
        before = body.vertices[layer.column].copy()
        columns = {layer.column: (before, before * held_share(body)[:, None])}
        return Edit(f"Clear layer {layer.name}", (LayersDelta(body.ident, body.layers, body.layers, columns),))


class RemoveLayer(Command, frozen=True, tag="remove_layer"):
    """Remove a relief layer with its relief."""

    body: str
    layer: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "remove_layer")
        layer = body.layer_named(self.layer, "remove_layer")
        _check_unlocked(layer, "remove_layer")
        layers = tuple(entry for entry in body.layers if entry is not layer)
        columns = {layer.column: (body.vertices[layer.column].copy(), None)}
        return Edit(f"Remove layer {layer.name}", (LayersDelta(body.ident, body.layers, layers, columns),))


class FlattenLayers(Command, frozen=True, tag="flatten_layers"):
    """Make what is seen the form, and remove all relief layers."""

    body: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "flatten_layers")
        for layer in body.layers:
            _check_unlocked(layer, "flatten_layers")
        if not body.layers:
            return Edit("Flatten layers", ())
        vertices = body.vertices
        columns: Columns = {layer.column: (vertices[layer.column].copy(), None) for layer in body.layers}
        columns[REST] = (vertices[REST].copy(), vertices["position"].copy())
        return Edit("Flatten layers", (LayersDelta(body.ident, body.layers, (), columns),))


def new_layer(body: Body, name: str, where: str) -> Layer:
    """A layer that a body does not have yet.

    Raises
    ------
    InvalidInput
        The name is taken, or the body has as many layers as it can.
    """
    if len(body.layers) >= MOST_LAYERS:
        raise InvalidInput(f"{where}: {body.name!r} already has {MOST_LAYERS} relief layers; merge some first")
    names = [layer.name for layer in body.layers]
    if name:
        check_name(body, name, where)
    ident = 1 + max((layer.ident for layer in body.layers), default=0)
    return Layer(ident, name or free_name("Relief", names))


def with_layer(body: Body, layer: Layer, offsets: NDArray[np.float32]) -> LayersDelta:
    """The delta that puts a new layer with (N, 3) metres of offsets on top."""
    return LayersDelta(body.ident, body.layers, (*body.layers, layer), {layer.column: (None, offsets)})


def check_name(body: Body, name: str, where: str) -> None:
    """Refuse a layer name that is empty or taken."""
    if not name.strip():
        raise InvalidInput(f"{where}: a relief layer needs a name")
    if any(layer.name == name for layer in body.layers):
        raise InvalidInput(f"{where}: {body.name!r} already has a relief layer {name!r}; choose another name")


def held_share(body: Body) -> NDArray[np.float32]:
    """(N,) share of every vertex that guard and border lock keep from being moved."""
    rows = np.arange(body.vertices.count, dtype=np.int32)
    free, held = body.free_share(rows), body.held(rows)
    share = np.zeros(rows.size, np.float32) if free is None else 1.0 - free
    if held is not None:
        share[held] = 1.0
    return share


def _check_unlocked(layer: Layer, where: str) -> None:
    if layer.locked:
        raise InvalidInput(f"{where}: the relief layer {layer.name!r} is locked; unlock it first")
