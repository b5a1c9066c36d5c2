"""Texture coordinates that stretch, overlap, are mirrored or lie outside."""

import numpy as np

from hulmo.core.commands import PackUv, RelaxUv, TurnBackUv
from hulmo.core.commands.laid_uv import opposite_of
from hulmo.core.counted import counted
from hulmo.core.deliver.profile import Profile
from hulmo.core.mesh.corner_table import UV
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.ready.finding import Check, Finding
from hulmo.core.uv.figures import figures_of

STRETCHED, TWICE = 3.0, 0.002
"""Stretch, and share of the image under several triangles, from which it is said."""


def find(project: Project, profile: Profile, progress: Progress) -> list[Finding]:
    """Of bodies that have any; grounds repeated along them may lie outside and over each other."""
    out = []
    for body in project.bodies:
        if not body.shown or UV not in body.corners.slots:
            continue
        slots = np.flatnonzero(body.corners.triangles[:, 0] >= 0).astype(np.int32)
        place = body.vertices["position"][body.corners.triangles[slots]].astype(np.float64)
        found = figures_of(place, body.corners.slots[UV][slots].astype(np.float64), opposite_of(body, slots))

        def say(name: str, count: int, words: str, advice: str, cure: object, body: object = body) -> None:
            out.append(Finding(f"uv {name}", body.name, count, words, advice, False, cure))  # type: ignore[attr-defined, arg-type]

        if found.mirrored:
            say("mirrored", found.mirrored, f"{counted(found.mirrored, 'triangle')} mirrored in UV", "Turn back",
                TurnBackUv(body.name))  # fmt: skip
        if found.linf > STRETCHED:
            say("stretched", 1, f"UV stretched by up to {found.linf:.1f}", "Relax UV", RelaxUv(body.name))
        if found.outside:
            say("outside", found.outside, f"{counted(found.outside, 'triangle')} outside the image",
                "Pack UV, unless an image is meant to repeat", PackUv(body.name, even=False))  # fmt: skip
        if found.twice > TWICE:
            say("twice", round(1000 * found.twice), f"{found.twice:.1%} of the image under several triangles",
                "Pack UV, unless they are meant to share it", PackUv(body.name, even=False))  # fmt: skip
    return out


CHECK = Check("uv", "Texture coordinates", find)
