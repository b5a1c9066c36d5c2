"""What a kind of scene object is."""

from collections.abc import Callable
from dataclasses import dataclass

import msgspec
import numpy as np
from numpy.typing import NDArray

from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.setting import Setting

Mesh = tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.int32]]
"""Positions and normals (N, 3), and triangles (M, 3)."""

Shift = Callable[[SceneObject, NDArray[np.float64]], SceneObject]


@dataclass(frozen=True)
class ObjectKind:
    """One kind of scene object: one file, one line in `objects/__init__.py`.

    Attributes
    ----------
    name, label, help : str
    settings : tuple of Setting
        What lies in `SceneObject.values`.
    mesh : callable
        What is drawn, about the object's own place; metres, or where it is a sign, shares of the scene's radius.
    colour : tuple of float
        Linear, 0 to 1.
    sign : bool
        Whether it only shows in the window that something is there: stills and files leave it out.
    check : callable
        Refuses values that it cannot have: raises InvalidInput.
    moved : callable
        The object put by some metres elsewhere.
    turns : bool
        Whether turn and scale mean anything to it.
    on_body : bool
        Whether it lies on a body as a line, drawn and taken hold of there, and has no place of its own.
    """

    name: str
    label: str
    help: str
    settings: tuple[Setting, ...]
    mesh: Callable[[], Mesh]
    colour: tuple[float, float, float]
    sign: bool
    check: Callable[[SceneObject, str], None]
    moved: Shift
    turns: bool = True
    on_body: bool = False


SIGN = 0.045
"""Size of a sign in radii of the scene."""


def sign_matrix(entry: SceneObject, model: NDArray[np.float64], radius: float) -> NDArray[np.float64]:
    """(4, 4) that puts the sign of an object there: as large as the scene asks for, turned to where a camera looks."""
    out = model.copy()
    size = max(SIGN * radius, 1e-3)
    turn = np.eye(3)
    target = entry.values.get("target")
    if isinstance(target, list | tuple) and len(target) == 3:
        back = model[:3, 3] - np.array(target, np.float64)
        back /= max(float(np.linalg.norm(back)), 1e-12)
        right = np.cross((0.0, 1.0, 0.0), back)
        right = right / np.linalg.norm(right) if np.linalg.norm(right) > 1e-6 else np.array([1.0, 0.0, 0.0])
        turn = np.stack((right, np.cross(back, right), back), axis=1)
    out[:3, :3] = turn * size
    return out


def plain_sign() -> Mesh:
    """Eight faces around a place: what stands for an object of a kind that is not known."""
    axes = np.concatenate((np.eye(3), -np.eye(3))) * 0.5
    faces = [(0, 1, 2), (1, 3, 2), (3, 4, 2), (4, 0, 2), (1, 0, 5), (3, 1, 5), (4, 3, 5), (0, 4, 5)]
    position = axes[np.array(faces)].reshape(-1, 3)
    corner = position.reshape(-1, 3, 3)
    normal = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
    normal /= np.linalg.norm(normal, axis=1, keepdims=True)
    triangles = np.arange(len(position), dtype=np.int32).reshape(-1, 3)
    return position.astype(np.float32), np.repeat(normal, 3, axis=0).astype(np.float32), triangles


def put_by(entry: SceneObject, way: NDArray[np.float64]) -> SceneObject:
    """`ObjectKind.moved` of what is nothing but where it is."""
    x, y, z = (np.array(entry.at) + way).tolist()
    return msgspec.structs.replace(entry, at=(x, y, z))
