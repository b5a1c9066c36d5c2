"""Texture coordinates that stretch, overlap, are mirrored or lie outside."""

from hulmo.core.commands import PackUv, RelaxUv, TurnBackUv
from hulmo.core.counted import counted
from hulmo.core.deliver.profile import Profile
from hulmo.core.mesh.corner_table import UV
from hulmo.core.mesh.placed_corners import placed_corners
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.ready.finding import Check, Finding
from hulmo.core.uv.faults import faulty
from hulmo.core.uv.laid import Laid

STRETCHED, TWICE = 3.0, 0.002
"""Stretch, and share of the image under several triangles, from which it is said."""


def find(project: Project, profile: Profile, progress: Progress) -> list[Finding]:
    """Of bodies that have any; grounds repeated along them may lie outside and over each other."""
    out = []
    for body in project.bodies:
        if not body.shown or UV not in body.corners.slots:
            continue
        laid = Laid.of(body, UV)
        found, ill = laid.figures(), faulty(laid)
        for name, count, words, advice, cure in (
            ("mirrored", found.mirrored, f"{counted(found.mirrored, 'triangle')} mirrored in UV", "Turn back",
             TurnBackUv(body.name)),
            ("stretched", int(found.linf > STRETCHED), f"UV stretched by up to {found.linf:.1f}", "Relax UV",
             RelaxUv(body.name)),
            ("outside", found.outside, f"{counted(found.outside, 'triangle')} outside the image",
             "Pack UV, unless an image is meant to repeat", PackUv(body.name, even=False)),
            ("twice", round(1000 * found.twice) if found.twice > TWICE else 0,
             f"{found.twice:.1%} of the image under several triangles", "Pack UV, unless they are meant to share it",
             PackUv(body.name, even=False)),
        ):  # fmt: skip
            if count:
                marks = placed_corners(body, ill[name])
                out.append(Finding(f"uv {name}", body.name, count, words, advice, False, cure, marks))
    return out


CHECK = Check("uv", "Texture coordinates", find)
