"""What every exchange format needs of a body: plain arrays, one row a corner that must differ."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.colour import hex_to_linear
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.blend import adjusted
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.quantise import quantise
from hulmo.core.ground.textures import StoredTextures, content_of, linear_albedo, part_pixels, remembered
from hulmo.core.ground.weights import WEIGHT, weights_of
from hulmo.core.kernel import kernel
from hulmo.core.mesh.body import Body, Place
from hulmo.core.mesh.chosen_parts import ONE_GROUND
from hulmo.core.mesh.compact import compact
from hulmo.core.mesh.corner_table import CornerTable
from hulmo.core.mesh.facets import corner_normals, flat_faces
from hulmo.core.mesh.uv_scale import metres_per_uv
from hulmo.core.project import Project
from hulmo.core.workers import side_by_side

PIECE = 1 << 22
"""Numbers of an image that are adjusted at a time."""


Rows = slice | NDArray[np.integer]

ALL = slice(None)


@dataclass(frozen=True)
class Delivery:
    """One body, ready to be written.

    Attributes
    ----------
    name : str
    position, normal : (N, 3) float32
        Metres about `origin`, +Y up, right-handed. Normals are means of face normals, weighted by area.
    origin : (x, y, z)
        Metres, double precision.
    uv : (N, 2) float32 or None
        Origin at the image's upper left.
    shares : (N, G) float32
        Weights of the grounds in use, as the body has them.
    means : (G, 3) float64
        Mean colour of each of these grounds, linear light.
    triangles : (M, 3) uint32
    tint : (N, 4) float32 or None
        Colour over the grounds: colour times cover in linear light, then cover.
    metres_per_uv : float
        Metres that a unit of UV covers; 0 where the body has no UV.
    """

    name: str
    position: NDArray[np.float32]
    normal: NDArray[np.float32]
    uv: NDArray[np.float32] | None
    shares: NDArray[np.float32]
    means: NDArray[np.float64]
    triangles: NDArray[np.uint32]
    tint: NDArray[np.float32] | None = None
    metres_per_uv: float = 0.0
    origin: Place = (0.0, 0.0, 0.0)

    @property
    def groups(self) -> int:
        """Groups of four weights that a vertex has."""
        return -(-int(self.shares.shape[1]) // 4)

    def weights(self, rows: Rows = ALL) -> NDArray[np.uint16]:
        """(K, 4 groups) weights of the grounds in use, at some vertices; a row sums to 65535. Columns beyond them are 0."""
        return quantise(self.shares[rows])

    def colour(self, rows: Rows = ALL) -> NDArray[np.float32]:
        """(K, 3) mean colour of the grounds that lie at some vertices, linear light, 0 to 1."""
        shares = np.ascontiguousarray(self.shares[rows])
        tint = np.empty((0, 4), np.float32) if self.tint is None else np.ascontiguousarray(self.tint[rows])
        out = np.empty((shares.shape[0], 3), np.float32)
        _colours(shares, np.ascontiguousarray(self.means, np.float64), tint, out)
        return out


def deliver(project: Project) -> tuple[list[Delivery], list[int]]:
    """The bodies of a project that are shown, and the columns of the grounds that lie anywhere on them.

    Raises
    ------
    InvalidInput
        The project has no body that is shown.
    FileProblem
        A texture cannot be read.
    """
    bodies = [body for body in project.bodies if body.shown]
    if not bodies:
        raise InvalidInput(
            "all bodies are hidden, so there is nothing to export; show one first"
            if project.bodies
            else "the project has no body to export; add a base form first"
        )
    used = used_grounds(bodies, len(project.grounds))
    if project.delivers_all:
        used = list(range(len(project.grounds)))
    means = mean_colours(tuple(project.grounds[column] for column in used), project.textures)
    return [_body(body, used, means) for body in bodies], used


def used_grounds(bodies: list[Body], grounds: int) -> list[int]:
    """Columns of the grounds that lie anywhere on some bodies, ascending."""
    there = np.zeros(grounds, np.bool_)
    for body in bodies:
        one = body.corners.slots.get(ONE_GROUND)
        if one is not None:
            named = np.unique(one[body.corners.triangles[:, 0] >= 0]).astype(np.int64)
            there[named[(named > 0) & (named <= grounds)] - 1] = True
        _lying(np.ascontiguousarray(weights_of(body, grounds)), body.corners.first_corner, there)
    return np.flatnonzero(there).tolist() or [0]


@kernel("void(float32[:,::1], int32[::1], boolean[::1])")
def _lying(weight: NDArray[np.float32], first: NDArray[np.int32], there: NDArray[np.bool_]) -> None:
    # which grounds lie at any vertex of a triangle; what all are found of already is not looked at
    missing = np.flatnonzero(~there)
    for row in range(weight.shape[0]):
        if first[row] < 0:
            continue
        found = False
        for i in range(missing.size):
            if weight[row, missing[i]] > 0:
                there[missing[i]] = True
                found = True
        if found:
            missing = np.flatnonzero(~there)
            if missing.size == 0:
                return


def mean_colours(grounds: tuple[Ground, ...], textures: StoredTextures) -> NDArray[np.float64]:
    """(G, 3) mean colour of each ground as it is drawn, tinted and adjusted; linear light."""
    return np.array([_known_colour(ground, textures) for ground in grounds])


def _known_colour(ground: Ground, textures: StoredTextures) -> NDArray[np.float64]:
    own = ground.tint, ground.brightness, ground.contrast, ground.gamma, ground.saturation
    key = ("colour", *own, content_of(ground, "albedo", textures))
    return remembered(key, lambda: _mean_colour(ground, part_pixels(ground, "albedo", textures)))


def _mean_colour(ground: Ground, albedo: NDArray[np.uint8]) -> NDArray[np.float64]:
    # the mean of the adjusted colour, which is not the adjusted mean; some rows at a time, for large images
    tint = hex_to_linear(ground.tint, f"ground {ground.name!r}")
    total = np.zeros(3)
    for rows in np.array_split(albedo, max(1, albedo.size // PIECE)):
        total += adjusted(linear_albedo(rows.reshape(-1, 3)).astype(np.float64) * tint, ground).sum(axis=0)
    return np.asarray(total / (albedo.size // 3))


def _body(body: Body, used: list[int], means: NDArray[np.float64]) -> Delivery:
    vertices, corners = compact(body.vertices, body.corners)
    normals = corner_normals(vertices["position"], vertices["normal"], corners)
    one = _one_grounds(corners, vertices.width(WEIGHT))
    work: list[Callable[[], Any]] = [
        partial(split_at_seams, corners.triangles, vertices.count, corners.uv, flat_faces(corners), one),
        partial(metres_per_uv, body),
    ]
    (rows, triangles, uv), scale = side_by_side(lambda each: each(), work)
    weight = vertices[WEIGHT]
    if used != list(range(weight.shape[1])):
        weight = np.ascontiguousarray(weight[:, used])
    columns = {"position": vertices["position"], "normal": vertices["normal"], "weight": weight}
    if TINT in vertices:
        columns[TINT] = vertices[TINT]
    if rows is not None:
        columns = {name: column[rows] for name, column in columns.items()}
    if normals is not None:
        own = np.empty_like(columns["normal"])
        own[triangles.reshape(-1)] = normals.reshape(-1, 3)
        columns["normal"] = own
    if one is not None:
        face, corner = np.nonzero(np.repeat(one[:, None] > 0, 3, axis=1))
        at = triangles[face, corner]
        columns["weight"] = columns["weight"].copy()
        columns["weight"][at] = np.array(used) == one[face, None] - 1
    return Delivery(
        body.name,
        columns["position"],
        columns["normal"],
        uv,
        columns["weight"],
        means,
        np.ascontiguousarray(triangles, np.int32).view(np.uint32),
        columns.get(TINT),
        scale if uv is not None else 0.0,
        body.origin,
    )


def _one_grounds(corners: CornerTable, grounds: int) -> NDArray[np.int64] | None:
    # (M,) 1 + column of the ground that alone lies on a face, 0 for none; None where no face has one
    values = corners.slots.get(ONE_GROUND)
    if values is None:
        return None
    one = values[:, 0, 0].astype(np.int64)
    one[one > grounds] = 0
    return one if one.any() else None


@kernel("void(float32[:,::1], float64[:,::1], float32[:,::1], float32[:,::1])")
def _colours(
    share: NDArray[np.float32], mean: NDArray[np.float64], tint: NDArray[np.float32], out: NDArray[np.float32]
) -> None:
    # and no product of matrices: that is not the same to the last bit on every machine
    for row in range(share.shape[0]):
        red, green, blue = 0.0, 0.0, 0.0
        for ground in range(share.shape[1]):
            part = np.float64(share[row, ground])
            if part == 0.0:  # most grounds lie at few vertices
                continue
            red += part * mean[ground, 0]
            green += part * mean[ground, 1]
            blue += part * mean[ground, 2]
        if tint.shape[0]:
            free = 1.0 - np.float64(tint[row, 3])
            red *= free + tint[row, 0]
            green *= free + tint[row, 1]
            blue *= free + tint[row, 2]
        out[row, 0] = min(max(red, 0.0), 1.0)
        out[row, 1] = min(max(green, 0.0), 1.0)
        out[row, 2] = min(max(blue, 0.0), 1.0)


@kernel("boolean(int32[::1], float32[:,::1], float32[:,::1])")
def _one_for_each(vertex: NDArray[np.int32], uv: NDArray[np.float32], single: NDArray[np.float32]) -> bool:
    # whether all corners of each vertex have the same, which `single` gets
    there = np.zeros(single.shape[0], np.bool_)
    for i in range(vertex.size):
        row = vertex[i]
        if not there[row]:
            there[row] = True
            single[row, 0], single[row, 1] = uv[i, 0], uv[i, 1]
        elif single[row, 0] != uv[i, 0] or single[row, 1] != uv[i, 1]:
            return False
    return True


def split_at_seams(
    triangles: NDArray[np.int32],
    vertices: int,
    uv: NDArray[np.float32] | None,
    flat: NDArray[np.bool_] | None = None,
    one: NDArray[np.int64] | None = None,
) -> tuple[NDArray[np.int64] | None, NDArray[np.integer], NDArray[np.float32] | None]:
    """One row for each different vertex, texture coordinate and one ground, and for each corner of a flat face.

    Parameters
    ----------
    triangles : (M, 3) int32
    vertices : int
    uv : (M, 3, 2) float32 or None
    flat : (M,) bool, optional
        Faces with a normal of their own.
    one : (M,) int, optional
        Number of the ground that alone lies on a face, 0 for none: corners of faces with different ones are kept apart.

    Returns
    -------
    rows : (N',) int64 or None
        Vertex of each new row; None where rows are the vertices themselves.
    triangles : (M, 3)
    uv : (N', 2) float32 or None
    """
    if (flat is not None and flat.any()) or one is not None:
        return _split_at_facets(triangles, uv, flat, one)
    if uv is None:
        return None, triangles, None
    flat_uv = np.ascontiguousarray(uv.reshape(-1, 2))
    corner_vertex = np.ascontiguousarray(triangles.reshape(-1), np.int32)
    single = np.zeros((vertices, 2), np.float32)
    if _one_for_each(corner_vertex, flat_uv, single):
        return None, triangles, single
    key = np.empty(corner_vertex.size, [("v", np.int64), ("uv", np.int64)])
    key["v"] = corner_vertex
    key["uv"] = (flat_uv + 0.0).view(np.int64)[:, 0]
    unique, inverse = np.unique(key, return_inverse=True)
    corner_uv = np.zeros((unique.size, 2), np.float32)
    corner_uv[inverse] = flat_uv
    return unique["v"], inverse.reshape(-1, 3), corner_uv


def _split_at_facets(
    triangles: NDArray[np.int32],
    uv: NDArray[np.float32] | None,
    flat: NDArray[np.bool_] | None,
    one: NDArray[np.int64] | None,
) -> tuple[NDArray[np.int64], NDArray[np.integer], NDArray[np.float32] | None]:
    key = np.zeros(triangles.size, [("v", np.int64), ("uv", np.int64), ("face", np.int64), ("one", np.int64)])
    key["v"] = triangles.reshape(-1)
    if flat is not None:
        key["face"] = np.repeat(np.where(flat, np.arange(flat.size) + 1, 0), 3)
    if one is not None:
        key["one"] = np.repeat(one, 3)
    if uv is not None:
        key["uv"] = (np.ascontiguousarray(uv.reshape(-1, 2)) + np.float32(0.0)).view(np.int64)[:, 0]
    unique, inverse = np.unique(key, return_inverse=True)
    made = None
    if uv is not None:
        made = np.zeros((unique.size, 2), np.float32)
        made[inverse.reshape(-1)] = uv.reshape(-1, 2)
    return unique["v"], inverse.reshape(-1, 3), made
