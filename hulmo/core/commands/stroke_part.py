"""What a stroke does to one of the bodies it goes over."""

import contextlib

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.attributes import attribute_of
from hulmo.core.edit import BodyDelta, Change, ColumnDelta, Delta, PatchDelta, RowsDelta
from hulmo.core.ground.follow import RuleFollower
from hulmo.core.ground.paint_target import PaintTarget
from hulmo.core.ground.palette import Palette
from hulmo.core.ground.weights import HAND, WEIGHT, weights_of
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import Layer
from hulmo.core.mesh.patch import Patch
from hulmo.core.project import Project
from hulmo.core.sculpt.brush import Brush
from hulmo.core.sculpt.growth import drop_scratch
from hulmo.core.sculpt.recorder import Touched, Written
from hulmo.core.sculpt.stroke import Stroke
from hulmo.core.setting import Values

Named = list[tuple[int, str, NDArray[np.int32]]]


class StrokePart:
    """The engine on one body, the rules that follow its shape, and what has to be taken back with it.

    Parameters
    ----------
    project : Project
    body : Body
    brush : Brush
    values : dict
        All settings of the brush, checked.
    invert : bool
    ground : int
        Column of the ground in hand; -1 for none.
    layer : Layer or None
        Layer in work.

    Attributes
    ----------
    body : Body
    engine : Stroke
    """

    def __init__(
        self, project: Project, body: Body, brush: Brush, values: Values, invert: bool, ground: int, layer: Layer | None
    ) -> None:
        self._project, self.body, self._layer = project, body, layer
        weights_of(body, len(project.grounds))
        self._there, self._count = body.vertices.names, body.vertices.count
        self._owner, self._layers = body.coat_owner, body.layers
        target = None
        if brush.column in (WEIGHT, HAND):
            target = PaintTarget(body, brush, Palette.of(project.grounds, project.blend), ground)
        self.engine = Stroke(body, brush, values, invert, ground, layer, target)
        self._follower: RuleFollower | None = None
        if brush.shapes and body.rules:
            self._follower = RuleFollower(body, project.ground_names, self.engine.note)

    def named(self, touched: list[Touched]) -> Named:
        """Rows that were written, those that ground rules wrote after them included."""
        if self._follower is not None and touched:
            touched = touched + self._follower.after(touched)
        return self._as_rows(touched)

    def meanwhile(self) -> list[Touched]:
        """Rows that changed while the stroke of another body led, since this was last asked."""
        touched, self.engine.meanwhile = self.engine.meanwhile, []
        return touched

    def settled(self) -> Named:
        """Rows that ground rules write once the stroke is over."""
        return [] if self._follower is None else self._as_rows(self._follower.settle())

    def finish(self) -> list[Delta]:
        """What the stroke did to the body, applied already."""
        deltas = self._deltas(self.engine.finish())
        fresh = self._fresh()
        if deltas:  # what came with the stroke goes with it
            blank = [np.zeros((self._count, width), np.float32) for _, width in fresh]
            came = zip(fresh, blank, strict=True)
            deltas = [*(ColumnDelta(self.body.ident, name, None, values) for (name, _), values in came), *deltas]
        else:
            self._drop(fresh)
        if deltas and self._layer is not None and self._layer.laid is not None:
            by_hand = msgspec.structs.replace(self._layer, laid=None)
            layers = tuple(by_hand if entry is self._layer else entry for entry in self.body.layers)
            deltas.append(BodyDelta(self.body.ident, "layers", self.body.layers, layers))
            self.body.layers = layers
        if self._owner != self.body.coat_owner:
            deltas.append(BodyDelta(self.body.ident, "coat_owner", self._owner, self.body.coat_owner))
        return deltas

    def abort(self) -> None:
        """Take back what was laid, in whatever state it broke off, and have all that is derived made anew."""
        body = self.body
        for delta in reversed(self._deltas(self.engine.finish())):
            with contextlib.suppress(Exception):
                delta.put(self._project, False, Change())
        drop_scratch(body)
        self._drop(self._fresh())
        body.coat_owner = self._owner
        body.layers = self._layers
        body.replaced()

    def _as_rows(self, touched: list[Touched]) -> Named:
        return [(self.body.ident, part.column, part.rows) for part in touched]

    def _fresh(self) -> list[tuple[str, int]]:
        vertices = self.body.vertices
        return [
            (name, vertices.width(name))
            for name in vertices.names
            if name not in self._there and attribute_of(name).kept
        ]

    def _drop(self, fresh: list[tuple[str, int]]) -> None:
        for name, _ in fresh:
            self.body.vertices.drop_column(name)

    def _deltas(self, done: "list[Written] | tuple[Patch, Patch]") -> list[Delta]:
        if isinstance(done, tuple):
            return [PatchDelta(self.body.ident, *done)]
        return [RowsDelta(self.body.ident, part.column, part.rows, part.before, part.after) for part in done]
