"""Cameras for pictures that follow each other: round what is looked at, and from viewpoint to viewpoint."""

from dataclasses import replace

import numpy as np
from scipy.interpolate import PchipInterpolator

from hulmo.core.dress.viewpoint import Viewpoint
from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Bounds
from hulmo.render.camera import Camera

MOST = 10_000
"""Pictures of one path."""


def turn(camera: Camera, count: int) -> list[Camera]:
    """Cameras in even steps once round their target; the last one stands a step before the first.

    Raises
    ------
    InvalidInput
        Fewer than 2 or more than 10,000.
    """
    _check(count)
    return [replace(camera, bearing=camera.bearing + 2 * np.pi * step / count) for step in range(count)]


def flight(views: tuple[Viewpoint, ...], count: int, bounds: Bounds) -> list[Camera]:
    """Cameras from the first viewpoint to the last through all between, in even steps from one to the next.

    Place, bearing, altitude, distance and field go by monotone cubics (Fritsch and Carlson 1980), which never overshoot; a
    bearing takes the shorter way round.

    Raises
    ------
    InvalidInput
        Fewer than two viewpoints; fewer than 2 pictures or more than 10,000.
    """
    _check(count)
    if len(views) < 2:
        raise InvalidInput(f"a flight needs two viewpoints at least; the project has {len(views)}")
    at = [Camera.from_viewpoint(view, bounds) for view in views]
    rows = np.array([(*camera.eye, camera.altitude, camera.distance, camera.field) for camera in at])
    bearing = np.unwrap([camera.bearing for camera in at])
    path = PchipInterpolator(np.arange(len(at)), np.column_stack((rows, bearing)))
    out = []
    for x, y, z, altitude, distance, field, way in path(np.linspace(0, len(at) - 1, count)).tolist():
        there = Camera(np.zeros(3), distance, way, altitude, field)
        out.append(replace(there, target=np.array([x, y, z]) - there.back * distance).clipped(bounds))
    return out


def _check(count: int) -> None:
    if not 2 <= count <= MOST:
        raise InvalidInput(f"{count:,} pictures: there can be 2 to {MOST:,}")
