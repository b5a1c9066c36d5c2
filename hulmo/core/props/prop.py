"""Props of the tray: meshes with a pivot, a foot and a range of sizes."""

import functools
import math
import pathlib
from dataclasses import dataclass

import msgspec
import numpy as np
from numpy.typing import NDArray

import hulmo.assets
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.topology.simplify import ONE_AT_A_TIME

Points = NDArray[np.float32]

FOLDER = pathlib.Path(hulmo.assets.__file__).parent / "props"

SHIPPED = (
    "boulder_1", "boulder_2", "boulder_3", "slab_1", "slab_2", "slab_3", "scree", "tussock", "shrub", "wind_bent_tree",
    "driftwood", "stalagmite", "ice_shard",
)  # fmt: skip
"""Names of the meshes that come with the program."""

MOST_PROPS = 64
"""Props of one tray."""

MOST_TRIANGLES = 200_000
"""Triangles of one prop."""

WAYS = 16
"""Directions in which the outline of a prop is known."""

LEVELS = (1.0, 0.22, 0.05)
"""Shares of its triangles with which a prop is drawn, from near to far."""

FEW_PAIRS = 1 << 18
"""Pairs of vertices up to which the nearest ones are found by looking at all."""


class Prop(msgspec.Struct, frozen=True):
    """One entry of the tray.

    Attributes
    ----------
    ident : int
        A number that no other prop of the project has; larger than 0.
    name : str
    mesh : str
        One of `SHIPPED`, or a key of `Project.prop_meshes`.
    foot : float
        Metres at its lower end that may stand in the ground.
    smallest, largest : float
        Factors between which its size is chosen.
    upright : float
        0: along the ground's normal, 1: straight up.
    share : float
        How often it is chosen beside the others; 0: not at all.
    """

    ident: int
    name: str
    mesh: str
    foot: float = 0.0
    smallest: float = 0.8
    largest: float = 1.25
    upright: float = 0.5
    share: float = 1.0


@dataclass(frozen=True, eq=False)
class PropMesh:
    """A mesh about its pivot, in metres, standing along +Y.

    Attributes
    ----------
    position, normal, colour : (N, 3) float32
        Colour in linear light, 0 to 1.
    triangles : (M, 3) int32
    """

    position: Points
    normal: Points
    colour: Points
    triangles: NDArray[np.int32]

    @functools.cached_property
    def outline(self) -> NDArray[np.float64]:
        """(WAYS,) how far it reaches along `WAYS` directions around its upright axis, metres, from +X to +Z."""
        turn = np.arange(WAYS) * (2.0 * math.pi / WAYS)
        ways = np.stack((np.cos(turn), np.sin(turn)))
        return np.asarray((self.position[:, (0, 2)].astype(np.float64) @ ways).max(axis=0))

    @functools.cached_property
    def radius(self) -> float:
        """How far it reaches from its axis, metres."""
        return float(np.hypot(self.position[:, 0], self.position[:, 2]).max(initial=0.0))

    @functools.cached_property
    def reach(self) -> float:
        """How far it reaches from its pivot, metres."""
        return float(np.linalg.norm(self.position, axis=1).max(initial=0.0))

    @functools.cached_property
    def low(self) -> float:
        """Height of its lowest point over the pivot, metres."""
        return float(self.position[:, 1].min(initial=0.0))

    @functools.cached_property
    def high(self) -> float:
        """Height of its highest point over the pivot, metres."""
        return float(self.position[:, 1].max(initial=0.0))

    @functools.cached_property
    def levels(self) -> tuple["PropMesh", ...]:
        """The mesh and coarser copies of it, as `LEVELS` says."""
        out: list[PropMesh] = [self]
        for share in LEVELS[1:]:
            wanted = max(8, round(share * self.triangles.shape[0]))
            out.append(out[-1] if wanted >= out[-1].triangles.shape[0] else _reduced(self, wanted))
        return tuple(out)

    @property
    def nbytes(self) -> int:
        """Bytes it holds."""
        return sum(part.nbytes for part in (self.position, self.normal, self.colour, self.triangles))


def _reduced(mesh: PropMesh, wanted: int) -> PropMesh:
    import fast_simplification  # Garland and Heckbert 1997; loaded when something is strewn

    share = min(1.0 - wanted / mesh.triangles.shape[0], 0.98)
    with ONE_AT_A_TIME:
        position, triangles = fast_simplification.simplify(mesh.position, mesh.triangles, target_reduction=share)
    if not len(triangles):
        return mesh
    return coloured_mesh(position.astype(np.float32), triangles.astype(np.int32), _nearest_colour(mesh, position))


def _nearest_colour(mesh: PropMesh, position: Points) -> Points:
    if position.shape[0] * mesh.position.shape[0] <= FEW_PAIRS:  # in less time than a tree takes to be imported
        away = ((position[:, None].astype(np.float64) - mesh.position) ** 2).sum(axis=2)
        return np.asarray(mesh.colour[away.argmin(axis=1)])
    from scipy.spatial import cKDTree

    _, near = cKDTree(mesh.position).query(position)
    return np.asarray(mesh.colour[near])


def coloured_mesh(position: Points, triangles: NDArray[np.int32], colour: Points) -> PropMesh:
    """A mesh with normals that are means of its faces', weighted by area."""
    a, b, c = (position[triangles[:, k]].astype(np.float64) for k in range(3))
    face = np.cross(b - a, c - a)
    normal = np.zeros((position.shape[0], 3))
    for k in range(3):
        np.add.at(normal, triangles[:, k], face)
    length = np.linalg.norm(normal, axis=1, keepdims=True)
    normal = np.where(length > 0, normal / np.maximum(length, 1e-30), (0.0, 1.0, 0.0))
    return PropMesh(
        np.ascontiguousarray(position, np.float32), normal.astype(np.float32),
        np.ascontiguousarray(colour, np.float32), np.ascontiguousarray(triangles, np.int32),
    )  # fmt: skip


@functools.cache
def shipped_mesh(name: str) -> PropMesh:
    """A mesh that comes with the program.

    Raises
    ------
    InvalidInput
    """
    if name not in SHIPPED:
        raise InvalidInput(f"there is no shipped prop {shown(name)}; there is {', '.join(SHIPPED)}")
    with np.load(FOLDER / f"{name}.npz") as file:
        return coloured_mesh(
            file["position"], file["triangles"].astype(np.int32), file["colour"].astype(np.float32) / 255
        )


def check_prop(prop: Prop, where: str) -> None:
    """Refuse a prop that no tray may hold.

    Raises
    ------
    InvalidInput
    """
    what = f"{where} {prop.name!r}"
    if prop.ident < 1:
        raise InvalidInput(f"{what}: its number is {prop.ident}; numbers are larger than 0")
    for label, value, low, high in (
        ("foot", prop.foot, 0.0, 1000.0),
        ("smallest", prop.smallest, 1e-3, 1e3),
        ("largest", prop.largest, 1e-3, 1e3),
        ("upright", prop.upright, 0.0, 1.0),
        ("share", prop.share, 0.0, 1000.0),
    ):
        if not low <= value <= high:
            raise InvalidInput(f"{what}: {label} is {value:g}; it must lie between {low:g} and {high:g}")
    if prop.smallest > prop.largest:
        raise InvalidInput(f"{what}: its smallest size, {prop.smallest:g}, is above its largest, {prop.largest:g}")


def check_mesh(mesh: PropMesh, where: str) -> None:
    """Refuse a mesh that cannot be one of a prop.

    Raises
    ------
    InvalidInput
    """
    count = mesh.position.shape[0]
    if not mesh.triangles.size:
        raise InvalidInput(f"{where}: it has no faces")
    if mesh.triangles.shape[0] > MOST_TRIANGLES:
        raise InvalidInput(
            f"{where}: it has {mesh.triangles.shape[0]:,} triangles; a prop can have {MOST_TRIANGLES:,}; reduce it first"
        )
    if mesh.triangles.min() < 0 or mesh.triangles.max() >= count:
        raise InvalidInput(f"{where}: a triangle names a vertex that is not there")
    for part in (mesh.position, mesh.normal, mesh.colour):
        if part.shape != (count, 3) or not np.isfinite(part).all():
            raise InvalidInput(f"{where}: it holds numbers that are not finite")
    if mesh.reach > 1e4 or not mesh.reach > 0:
        raise InvalidInput(f"{where}: it reaches {mesh.reach:g} m from its pivot; it must be 0 to 10,000 m")
