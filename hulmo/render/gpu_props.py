"""Props of a body on the graphics card: meshes once, and for every picture the matrices of those that are seen."""

from collections.abc import Iterator
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.strewn import Strewn, frames
from hulmo.core.project import Project
from hulmo.core.props.prop import LEVELS, PropMesh
from hulmo.core.props.tray import mesh_of

Matrix = NDArray[np.float64]

NEAR, MIDDLE, LEAST = 90.0, 24.0, 0.7
"""Pixels that a prop reaches from its pivot, down to which it is drawn whole, with fewer triangles, and at all."""

MANY = 3000
"""Props from which on they cast shadows with the fewest triangles."""


class PropMeshes:
    """Meshes at all their levels, sent when they are first drawn."""

    def __init__(self, context: moderngl.Context) -> None:
        self._context = context
        self._sent: dict[tuple[int, int], tuple[Any, ...]] = {}

    def buffers(self, mesh: PropMesh, level: int) -> tuple[Any, ...]:
        """Vertices (position, normal, colour) and triangles."""
        key = (id(mesh), level)
        if key not in self._sent:
            made = mesh.levels[level]
            rows = np.concatenate((made.position, made.normal, made.colour), axis=1).astype(np.float32)
            parts = (np.ascontiguousarray(rows), np.ascontiguousarray(made.triangles, np.int32))
            self._sent[key] = (*(self._context.buffer(part.tobytes()) for part in parts), mesh)
        return self._sent[key][:2]


class GpuProps:
    """The props of one body.

    Parameters
    ----------
    context : moderngl.Context
    meshes : PropMeshes
    """

    def __init__(self, context: moderngl.Context, meshes: PropMeshes) -> None:
        self._context, self._meshes = context, meshes
        self._strewn: Strewn | None = None
        self._body: Body | None = None
        self._waiting: list[NDArray[np.integer]] = []
        self._matrix = np.empty((0, 3, 4), np.float32)
        self._corner: tuple[NDArray[np.int32], ...] = (np.empty(0, np.int32),) * 3
        self._rows = 0
        self._reach = np.empty(0)
        self._kinds: list[tuple[PropMesh, NDArray[np.intp]]] = []
        self._instances = context.buffer(reserve=1 << 16, dynamic=True)
        self._arrays: dict[tuple[int, int, int, int, int], Any] = {}
        self._numbers = context.buffer(reserve=1 << 14, dynamic=True)
        self._cast: tuple[PropMesh, int, NDArray[np.intp]] | None = None

    @property
    def count(self) -> int:
        """Props in the list of the body, those that are not there any more included."""
        return 0 if self._strewn is None else self._strewn.count

    def moved(self, rows: NDArray[np.integer]) -> None:
        """Vertices of the body have moved."""
        self._waiting.append(rows)

    def around(self, rows: NDArray[np.integer], count: int) -> NDArray[np.float32]:
        """(6 L, 3) places about the origin of the body that hold all props on triangles with some of its `count` vertices."""
        touched = np.zeros(max(count, self._rows), np.bool_)
        touched[rows] = True
        touched[count:] = False
        which = np.flatnonzero(self._touched_by(touched))
        place, reach = self._matrix[which, :, 3].astype(np.float64), self._reach[which]
        way = np.concatenate((np.eye(3), -np.eye(3)))
        return np.asarray((place[:, None] + reach[:, None, None] * way * 1.8).reshape(-1, 3), np.float32)

    def _touched_by(self, rows: NDArray[np.bool_]) -> NDArray[np.bool_]:
        # which props stand on a triangle with such a vertex
        a, b, c = self._corner
        return np.asarray(rows[a] | rows[b] | rows[c])

    def refresh(self, body: Body, project: Project) -> None:
        """Bring matrices up to date."""
        strewn = body.strewn
        assert isinstance(strewn, Strewn)
        if strewn is not self._strewn or body is not self._body:
            there = np.flatnonzero(strewn.there & (body.corners.triangles[strewn.slot, 0] >= 0))
            self._all(body, project, strewn, there)
        elif self._waiting:
            touched = np.zeros(max(body.vertices.count, self._rows), np.bool_)
            for rows in self._waiting:
                touched[rows] = True
            touched[body.vertices.count :] = False
            which = np.flatnonzero(self._touched_by(touched))
            if which.size:
                self._matrix[which] = _matrices(body, strewn.taken(self._there[which]))
        self._waiting.clear()

    def _all(self, body: Body, project: Project, strewn: Strewn, there: NDArray[np.intp]) -> None:
        self._strewn, self._body, self._there = strewn, body, there
        shown = strewn.taken(there)
        self._matrix = _matrices(body, shown)
        corners = body.corners.triangles[shown.slot]
        self._corner = tuple(np.ascontiguousarray(corners[:, k]) for k in range(3))
        self._rows = int(corners.max(initial=-1)) + 1
        self._kinds = []
        self._reach = np.zeros(there.size)
        for prop in project.props:
            rows = np.flatnonzero(shown.prop == prop.ident)
            if rows.size:
                mesh = mesh_of(prop, project.prop_meshes)
                self._kinds.append((mesh, rows))
                self._reach[rows] = mesh.reach * shown.size[rows]

    def place(self, anchor: NDArray[np.float64]) -> tuple[float, float, float]:
        """From where a picture counts to the origin of the body."""
        assert self._body is not None
        x, y, z = (np.array(self._body.origin) - anchor).tolist()
        return x, y, z

    def draw(
        self, made: moderngl.Program, matrix: Matrix, eye: Matrix, pixels: float, first: int | None = None
    ) -> None:
        """Draw what is seen.

        Parameters
        ----------
        made : Program
            With all uniforms but the instances set.
        matrix : (4, 4)
            From the coordinates of the body to clip space.
        eye : (3,)
            About the origin of the body.
        pixels : float
            Pixels that a metre at a distance of a metre takes.
        first : int, optional
            What counts before: the program is told the number of each prop, its place in the list of the body and this,
            from 1.
        """
        place = self._matrix[:, :, 3].astype(np.float64)
        away = np.linalg.norm(place - eye, axis=1)
        size = self._reach * pixels / np.maximum(away - self._reach, 1e-3)
        clip = place @ matrix[:, :3].T + matrix[:, 3]
        rim = np.abs(matrix[:3, :3]).sum(axis=1) * 1.1
        w = clip[:, 3]
        seen = (size >= LEAST) & (w > -self._reach)
        for axis in range(2):
            seen &= np.abs(clip[:, axis]) <= np.abs(w) + self._reach * (rim[axis] + 1.0)
        for mesh, rows in self._kinds:
            rows = rows[seen[rows]]
            large = size[rows]
            for level in range(len(LEVELS)):
                high = np.inf if level == 0 else (NEAR, MIDDLE)[level - 1]
                low = (NEAR, MIDDLE, 0.0)[level]
                self._draw(made, mesh, level, rows[(large >= low) & (large < high)], first)

    def each_cast(self, most: int) -> Iterator[None]:
        """Groups of props that cast shadows, of so many triangles at the most; each is drawn by `draw_cast`."""
        level = 2 if self._matrix.shape[0] > MANY else 1
        for mesh, rows in self._kinds:
            step = max(1, most // max(1, mesh.levels[level].triangles.shape[0]))
            for first in range(0, rows.size, step):
                self._cast = (mesh, level, rows[first : first + step])
                yield

    def draw_cast(self, made: moderngl.Program) -> None:
        """See `each_cast`."""
        if self._cast is not None:
            self._draw(made, *self._cast)

    def _draw(
        self, made: moderngl.Program, mesh: PropMesh, level: int, rows: NDArray[np.intp], first: int | None = None
    ) -> None:
        if not rows.size:
            return
        data = self._matrix[rows].tobytes()
        if len(data) > self._instances.size:
            self._instances.release()
            self._instances = self._context.buffer(reserve=2 * len(data), dynamic=True)
            self._arrays.clear()
        self._instances.orphan()
        self._instances.write(data)
        if first is not None:
            if 4 * rows.size > self._numbers.size:
                self._numbers.release()
                self._numbers = self._context.buffer(reserve=8 * rows.size, dynamic=True)
                self._arrays.clear()
            self._numbers.orphan()
            self._numbers.write((self._there[rows] + (first + 1)).astype(np.float32).tobytes())
        key = (made.glo, id(mesh), level, self._instances.glo, self._numbers.glo if first is not None else 0)
        if key not in self._arrays:
            vertices, triangles = self._meshes.buffers(mesh, level)
            content: list[tuple[Any, ...]] = [
                (vertices, "3f4 3f4 3f4", "in_position", "in_normal", "in_colour"),
                (self._instances, "4f4 4f4 4f4/i", "in_east", "in_up", "in_south"),
            ]
            if first is not None:
                content.append((self._numbers, "1f4/i", "in_number"))
            self._arrays[key] = self._context.vertex_array(made, content, index_buffer=triangles, skip_errors=True)
        self._arrays[key].render(moderngl.TRIANGLES, instances=int(rows.size))


def _matrices(body: Body, strewn: Strewn) -> NDArray[np.float32]:
    place, turned = frames(body, strewn)
    return np.concatenate((turned, place[:, :, None]), axis=2).astype(np.float32)
