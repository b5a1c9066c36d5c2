"""Lay relief over a whole body, in a layer of its own; lay such a layer again."""

import pathlib
from typing import Any, Self

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.commands.command import Command
from hulmo.core.commands.layers import check_name, held_share, new_layer, with_layer
from hulmo.core.edit import ColumnDelta, Delta, Edit, LayersDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import Laid
from hulmo.core.mesh.normals import update_normals
from hulmo.core.mesh.shelter import covered
from hulmo.core.named_files import images_of, with_located_images
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name
from hulmo.core.relief import RELIEFS, Task, relief_named, within_limits
from hulmo.core.setting import complete

Points = NDArray[np.float32]


class LayRelief(Command, frozen=True, tag="lay_relief"):
    """Lay relief over a whole body, in a new layer on top.

    Attributes
    ----------
    body, relief : str
        Of a body; noise, image, terraces, slump or jitter.
    settings : dict
        What differs from the defaults, see above. A relative file of an image is taken from the folder of the recipe.
    layer : str
        Name of the new layer; empty: named after the relief.
    only_on : str
        Ground whose weight is the mask; empty: everywhere.
    tile_as : str
        Ground whose tile size an image follows; empty: the setting `tile`.
    """

    body: str
    relief: str
    settings: dict[str, Any] = {}
    layer: str = ""
    only_on: str = ""
    tile_as: str = ""

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return self.relief in RELIEFS and bool(images_of(RELIEFS[self.relief].settings, self.settings))

    def located(self, folder: pathlib.Path) -> Self:
        """See `Command.located`."""
        if not self.reads_files:
            return self
        settings = with_located_images(folder, RELIEFS[self.relief].settings, self.settings)
        return msgspec.structs.replace(self, settings=settings)

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = f"lay_relief, {self.relief}"
        body = project.body_named(self.body, where)
        relief = relief_named(self.relief, "lay_relief")
        if self.layer:
            check_name(body, self.layer, where)
        name = self.layer or free_name(relief.label, [layer.name for layer in body.layers])
        laid = Laid(self.relief, dict(self.settings), self.only_on, self.tile_as)
        layer = msgspec.structs.replace(new_layer(body, name, where), laid=laid)
        vertices = body.vertices
        offsets, told = _offsets(project, body, laid, vertices["position"], vertices["normal"], progress, where)
        return Edit(f"{relief.label}", (with_layer(body, layer, offsets), *_told(body, told)))


class RelayRelief(Command, frozen=True, tag="relay_relief"):
    """Lay a layer again that `lay_relief` made: with other settings, or because its image has changed.

    Attributes
    ----------
    body, layer : str
    settings : dict or None
        All that differs from the defaults; None keeps the settings it was laid with.
    """

    body: str
    layer: str
    settings: dict[str, Any] | None = None

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return True

    def located(self, folder: pathlib.Path) -> Self:
        """See `Command.located`."""
        settings = [setting for relief in RELIEFS.values() for setting in relief.settings]
        given = self.settings
        return (
            self if not given else msgspec.structs.replace(self, settings=with_located_images(folder, settings, given))
        )

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "relay_relief")
        layer = body.layer_named(self.layer, "relay_relief")
        if layer.laid is None:
            raise InvalidInput(f"relay_relief: {layer.name!r} was made by hand and cannot be laid again")
        if layer.locked:
            raise InvalidInput(f"relay_relief: the relief layer {layer.name!r} is locked; unlock it first")
        laid = (
            layer.laid if self.settings is None else msgspec.structs.replace(layer.laid, settings=dict(self.settings))
        )
        where = f"relay_relief, {laid.relief}"
        place = body.layers.index(layer)
        below = body.surface(body.layers[place - 1] if place else None)
        normal = body.vertices["normal"]
        if below is not body.vertices["position"]:
            normal, corners = np.zeros_like(below), body.corners
            rows = np.arange(body.vertices.count, dtype=np.int32)
            update_normals(below, corners.vertex, corners.opposite, corners.first_corner, rows, normal)
        offsets, told = _offsets(project, body, laid, below, normal, progress, where)
        share = held_share(body)
        if share.any():  # what is guarded by now keeps what it had
            offsets += share[:, None] * body.vertices[layer.column]
        layers = tuple(msgspec.structs.replace(entry, laid=laid) if entry is layer else entry for entry in body.layers)
        columns = {layer.column: (body.vertices[layer.column].copy(), offsets)}
        delta = LayersDelta(body.ident, body.layers, layers, columns)
        return Edit(f"Lay {layer.name} again", (delta, *_told(body, told)))


def _offsets(
    project: Project, body: Body, laid: Laid, position: Points, normal: Points, progress: Progress, where: str
) -> tuple[Points, dict[str, NDArray[np.float32]]]:
    relief = relief_named(laid.relief, where)
    values = complete(relief.all_settings, laid.settings, where)
    if relief.check is not None:
        relief.check(values, where)
    tile = project.grounds[project.ground_named(laid.tile_as, where)].tile if laid.tile_as else None
    free = within_limits(position, normal, values, body.down, body.origin)
    rows = np.arange(body.vertices.count, dtype=np.int32)
    guarded, held = body.free_share(rows), body.held(rows)
    if guarded is not None:
        free *= guarded
    if held is not None:
        free[held] = 0.0
    if laid.only_on:
        free *= weights_of(body, len(project.grounds))[:, project.ground_named(laid.only_on, where)]
    progress.step(0.0, f"laying {relief.label.lower()}")
    task = Task(
        position, normal, body.corners, free, values, tile, progress, body.down, body.origin,
        lambda name: weights_of(body, len(project.grounds))[:, project.ground_named(name, where)],
        lambda: covered(body),
    )  # fmt: skip
    offsets = relief.lay(task)
    if not np.isfinite(offsets).all():
        raise InvalidInput(f"{where}: these settings give heights that are not finite; choose smaller ones")
    progress.step(1.0, "putting it in place")
    return np.ascontiguousarray(offsets, np.float32), task.told


def _told(body: Body, told: dict[str, NDArray[np.float32]]) -> tuple[Delta, ...]:
    # what a relief knows of vertices besides their offsets
    return tuple(
        ColumnDelta(
            body.ident, name, body.vertices[name].copy() if name in body.vertices else None,
            np.ascontiguousarray(values[:, None], np.float32),
        )
        for name, values in told.items()
    )  # fmt: skip
