"""Faults of meshes, as Mesh care finds them."""

from hulmo.core.care import CHECKS
from hulmo.core.commands import Command, Cure, Weld
from hulmo.core.counted import counted
from hulmo.core.deliver.profile import Profile
from hulmo.core.mesh.placed_corners import placed_corners
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.ready.finding import Check, Finding

WARN = ("border", "stretched", "valence")
"""What may be delivered all the same."""

FEW = 5e-4
"""Share of a body's triangles up to which thin and crossing ones may be delivered all the same."""


def find(project: Project, profile: Profile, progress: Progress) -> list[Finding]:
    """One finding for each body and kind of fault."""
    bodies = [body for body in project.bodies if body.shown]
    out = []
    for number, body in enumerate(bodies):
        others = tuple(other for other in bodies if other is not body)
        for done, check in enumerate(CHECKS.values()):
            share = (number + done / len(CHECKS)) / max(len(bodies), 1)
            part = progress.part(share, share + 1 / (len(bodies) * len(CHECKS)))
            found = check.look(body, others, check.limit.default, part)
            if not found.count:
                continue
            few = check.name in ("thin", "crossing") and found.count <= FEW * body.corners.live_count
            cure: Command | None = None
            if check.cure == "weld":
                cure = Weld(body.name)
            elif check.cure == "remesh":
                cure = Cure(body.name, check.name)
            worst = f"; {found.worst}" if found.worst else ""
            out.append(
                Finding(
                    f"mesh {check.name}", body.name, found.count, f"{check.label}: {counted(found.count, 'place')}{worst}",
                    f"{check.cure_label} in Mesh care", check.name not in WARN and not few, cure,
                    placed_corners(body, found.triangles),
                )
            )  # fmt: skip
    return out


CHECK = Check("mesh", "Meshes", find)
