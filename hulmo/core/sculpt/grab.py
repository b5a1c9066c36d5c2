"""A place on the surface that a stroke took hold of, and how far the pointer has come since."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.sculpt.sampler import Sample

Vector = NDArray[np.float64]


@dataclass(frozen=True)
class Grab:
    """Where a stroke took hold.

    Attributes
    ----------
    triangle : int
    point, normal : (3,) float64
        Surface point, metres, and the surface normal there.
    facing : (3,) float64
        Unit normal of the plane the pointer moves in: toward the viewer.
    sample : Sample
        What took hold.
    """

    triangle: int
    point: Vector
    normal: Vector
    facing: Vector
    sample: Sample

    def pull(self, sample: Sample) -> Vector | None:
        """(3,) way from the grabbed point to where the pointer is now, metres; None when it points along the plane.

        A ray is met with the plane through the grabbed point that faces the viewer; a point counts as it is.
        """
        if sample.direction is None:
            return sample.origin - self.point
        along = float(sample.direction @ self.facing)
        if abs(along) < 1e-6 * float(np.linalg.norm(sample.direction)):
            return None
        share = float((self.point - sample.origin) @ self.facing) / along
        return sample.origin + sample.direction * share - self.point if share > 0 else None


def take_hold(body: Body, sample: Sample) -> Grab | None:
    """Grab the surface under a sample; None when there is none."""
    hit = sample.on(body)
    if hit is None:
        return None
    normal = body.normal_at(hit)
    facing = normal if sample.direction is None else -sample.direction / np.linalg.norm(sample.direction)
    return Grab(hit.triangle, hit.position, normal, facing, sample)
