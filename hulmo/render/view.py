"""All that a picture hangs on but the bodies themselves, as it was when the picture was begun."""

import math
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.dress.light import Light
from hulmo.core.ground.ground import Blend
from hulmo.core.mesh.body import Bounds
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.setting import Values, number
from hulmo.render.camera import Camera
from hulmo.render.inside import Inside
from hulmo.render.looks import Look

Vector = NDArray[np.float64]


NEAR_REACH, NEAR_STEP, NEAR_SHARE = 2.4, 1.5, 0.6
"""Half heights of the picture at what is looked at around which shadows are drawn finer, steps of that, and share of the
scene from which on it is not worth it."""


@dataclass(frozen=True)
class Paper:
    """Background of the looks without sky: sRGB 0 to 1, upper and lower edge of the picture."""

    high: tuple[float, float, float] = (0.85, 0.86, 0.84)
    low: tuple[float, float, float] = (0.70, 0.72, 0.71)


@dataclass(frozen=True, eq=False)
class View:
    """What is looked at, from where, and how.

    Attributes
    ----------
    camera : Camera
        Counts from the anchor.
    look : Look
    values : dict
        Settings of the look.
    bounds : Bounds
        Extent of all bodies, metres.
    anchor : (3,) float64
        Place near what is looked at that the picture counts from.
    inside : Inside
    light : Light
    blend : Blend
    objects : tuple of SceneObject
        What stands in the scene beside the bodies.
    paper : Paper
    ground : int
        Column of the ground in hand.
    vertices_of : int
        Number of the body whose vertices are shown; 0 for none.
    hatch, backs, shadows : bool
        See `Renderer`.
    grains : dict of int to float
        Mean edge length of every body by number, metres.
    signs : bool
        Whether signs show where things are that have no shape.
    """

    camera: Camera
    look: Look
    values: Values
    bounds: Bounds
    anchor: Vector
    inside: Inside
    light: Light
    blend: Blend
    objects: tuple[SceneObject, ...]
    paper: Paper
    ground: int
    vertices_of: int
    hatch: bool
    backs: bool
    shadows: bool
    grains: Mapping[int, float]
    signs: bool

    def asks_for_the_same(self, other: "View") -> bool:
        """Whether another view differs in nothing but what follows from a change of the bodies' shape."""
        return np.array_equal(self.anchor, other.anchor) and self._rest() == other._rest()

    def _rest(self) -> tuple[object, ...]:
        return (
            self.camera.key(), self.look, self.values, self.inside, self.light,
            self.blend, self.objects, self.paper, self.ground, self.vertices_of, self.hatch, self.backs, self.shadows,
            self.signs,
        )  # fmt: skip

    @property
    def section(self) -> tuple[float, float, float, float]:
        """The section plane, counted from the anchor; zeros for none."""
        if self.inside.section is None:
            return 0.0, 0.0, 0.0, 0.0
        x, y, z, away = self.inside.section
        return x, y, z, away - float(self.anchor @ (x, y, z))

    @property
    def toward_light(self) -> tuple[float, float, float]:
        """Unit vector to where light comes from in this look."""
        kind = self.values.get("light", "sun")
        if kind == "sun":
            return self.light.toward_sun()
        bearing, altitude = math.radians(number(self.values, "bearing")), math.radians(number(self.values, "altitude"))
        level, high = math.cos(altitude), math.sin(altitude)
        if kind == "fixed":
            return math.sin(bearing) * level, high, -math.cos(bearing) * level
        camera = self.camera
        way = (camera.right * math.sin(bearing) + camera.back * math.cos(bearing)) * level + camera.up * high
        return float(way[0]), float(way[1]), float(way[2])

    @property
    def contact(self) -> bool:
        """Whether hollows are shaded by what stands around them."""
        return self.look.shaded and self.shadows and self.inside.section is None  # a cap is a plain page

    @property
    def contact_reach(self) -> float:
        """Metres within which they are."""
        return self.bounds.radius * 0.03

    def near_place(self) -> tuple[float, float, float, float] | None:
        """Where shadows are drawn finer, from the anchor, and how many metres around; None where that would be all."""
        reach = NEAR_REACH * self.camera.distance * math.tan(math.radians(self.camera.field) / 2)
        reach = NEAR_STEP ** math.ceil(math.log(max(reach, 1e-3), NEAR_STEP))  # the same for about the same distance
        if reach > NEAR_SHARE * self.bounds.radius:
            return None
        x, y, z = (np.round(self.camera.target / (0.25 * reach)) * (0.25 * reach)).tolist()
        return x, y, z, reach

    def contact_share(self) -> float:
        """The farthest that contact shading looks, as a share of the picture's height."""
        if not self.contact:
            return 0.0
        ends = np.stack((self.bounds.low, self.bounds.high)) - self.anchor
        back = self.camera.back
        nearest = float(self.camera.eye @ back - np.maximum(ends[0] * back, ends[1] * back).sum())
        return min(0.08, self.contact_reach / max(nearest, self.camera.near, 1e-9))

    def matrix(self, size: tuple[int, int]) -> NDArray[np.float64]:
        """(4, 4) from places about the anchor to clip space, for a picture of a size."""
        return self.camera.view_projection(size[0] / size[1])


def from_tables(matrix: NDArray[np.float64], place: tuple[float, float, float]) -> NDArray[np.float64]:
    """(4, 4) from the coordinates of tables to clip space, for a body whose origin lies at a place about the anchor."""
    out = matrix.copy()
    out[:, 3] += matrix[:, :3] @ np.array(place)
    return out
