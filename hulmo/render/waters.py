"""Waters on the graphics card."""

from typing import Any

import moderngl
import numpy as np

from hulmo.core.edit import Change
from hulmo.core.errors import InvalidInput
from hulmo.core.objects.water import is_water
from hulmo.core.project import Project
from hulmo.core.water.surface import WaterSurface, water_surface


def moves_waters(change: Change) -> bool:
    """Whether waters may stand otherwise after a change."""
    fields = ("bodies", "objects", "body shown", "body down", "body origin")
    return (
        bool(change.bodies)
        or not change.fields.isdisjoint(fields)
        or any(column == "position" for _, column, _ in change.rows)
    )


class Waters:
    """The surfaces that are drawn.

    Attributes
    ----------
    stale : bool
        Whether bodies or waters have changed since they were taken.
    """

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._drawn: dict[int, _Drawn] = {}
        self.stale = True

    def clear(self) -> None:
        """Forget all."""
        for drawn in self._drawn.values():
            drawn.release()
        self._drawn.clear()
        self.stale = True

    def set(self, surfaces: dict[int, WaterSurface]) -> None:
        """Draw these from now on, by the number of their object."""
        self.clear()
        self._drawn = {ident: _Drawn(self._context, surface) for ident, surface in surfaces.items()}
        self.stale = False

    def take(self, project: Project) -> None:
        """Find out where the waters of a project stand, where that is not known."""
        if not self.stale:
            return
        found = {}
        for entry in project.objects:
            if is_water(entry) and entry.shown:
                try:
                    found[entry.ident] = water_surface(project.bodies, project.objects, entry)
                except InvalidInput:
                    continue  # no water stands there; its card says so
        self.set(found)

    def get(self, ident: int) -> "_Drawn | None":
        """One of them."""
        return self._drawn.get(ident)


class _Drawn:
    # counted from its middle, so that single precision is enough wherever it lies

    def __init__(self, context: moderngl.Context, surface: WaterSurface) -> None:
        self._context = context
        self.middle = surface.position.mean(axis=0) if surface.position.size else np.zeros(3)
        known = np.stack((surface.depth, surface.shore), axis=1)
        self._parts = [
            context.buffer(np.ascontiguousarray(part).tobytes() or bytes(4))
            for part in (
                (surface.position - self.middle).astype(np.float32), surface.normal, known, surface.triangles,
            )
        ]  # fmt: skip
        self._array: Any = None

    def draw(self, program: moderngl.Program) -> None:
        if self._array is None:
            position, normal, known, triangles = self._parts
            content = [(position, "3f4", "in_position"), (normal, "3f4", "in_normal"), (known, "2f4", "in_known")]
            self._array = self._context.vertex_array(program, content, index_buffer=triangles, skip_errors=True)
        self._array.render(moderngl.TRIANGLES)

    def release(self) -> None:
        for part in self._parts:
            part.release()
        if self._array is not None:
            self._array.release()
