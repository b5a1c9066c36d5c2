"""Taking hold of a piece of surface and following the pointer with it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.region import Region
from hulmo.core.sculpt.amount import dab_amount
from hulmo.core.sculpt.sampler import Sample

Vector = NDArray[np.float64]


@dataclass(frozen=True)
class Grab:
    """A piece of surface that is held.

    Attributes
    ----------
    region : Region
        What is held; it stays the same however far it is pulled.
    base : (K, 3) float32
        Positions at the grab.
    amount : (K,) float32
        Share of the pull that each row follows.
    point, normal : (3,) float64
        Surface point that was grabbed, metres, and the surface normal there.
    facing : (3,) float64
        Unit normal of the plane the pointer moves in: toward the viewer.
    """

    region: Region
    base: NDArray[np.float32]
    amount: NDArray[np.float32]
    point: Vector
    normal: Vector
    facing: Vector

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


def take_hold(body: Body, sample: Sample, radius: float, core: float, falloff: str, strength: float) -> Grab | None:
    """Grab the surface under a sample; None when there is none, or nothing of it within the radius.

    Parameters
    ----------
    body : Body
    sample : Sample
    radius : float
        Metres.
    core, falloff, strength
        As for `dab_amount`.
    """
    hit = sample.on(body)
    if hit is None:
        return None
    region = body.grow_region(hit.triangle, hit.position, radius)
    if region.inside.size == 0:
        return None
    position = body.vertices["position"]
    amount = dab_amount(position, region.inside, hit.position, radius, core, falloff, strength * sample.pressure, None)
    normal = body.normal_at(hit)
    facing = normal if sample.direction is None else -sample.direction / np.linalg.norm(sample.direction)
    return Grab(region, np.take(position, region.inside, axis=0), amount, hit.position, normal, facing)
