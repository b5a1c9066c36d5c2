"""More triangles, vertices or grounds than the target takes."""

import numpy as np

from hulmo.core.commands import Reduce
from hulmo.core.counted import counted
from hulmo.core.deliver.limits import at_vertex, on_body
from hulmo.core.deliver.profile import Profile
from hulmo.core.ground.weights import weights_of
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.ready.finding import Check, Finding


def find(project: Project, profile: Profile, progress: Progress) -> list[Finding]:
    """Of the whole delivery, and of each body."""
    bodies = [body for body in project.bodies if body.shown]
    out = []
    total = sum(body.corners.live_count for body in bodies)
    if profile.triangles and total > profile.triangles:
        largest = max(bodies, key=lambda body: body.corners.live_count)
        wanted = largest.corners.live_count - (total - profile.triangles)
        cure = Reduce(largest.name, count=wanted) if wanted >= 4 else None
        out.append(
            Finding(
                "budget triangles", "", total, f"{total:,} triangles; the target takes {profile.triangles:,}",
                f"Reduce {largest.name}, or hide what is not wanted", True, cure,
            )
        )  # fmt: skip
    for body in bodies:
        if profile.vertices and not profile.cuts and body.vertices.live_count > profile.vertices:
            out.append(
                Finding(
                    "budget vertices", body.name, body.vertices.live_count,
                    f"{body.vertices.live_count:,} vertices; the target takes {profile.vertices:,} in one mesh",
                    "Choose a profile with patches, or reduce it",
                )
            )  # fmt: skip
        weight = weights_of(body, len(project.grounds))
        after = at_vertex(on_body(body, weight, profile.most_grounds), profile.most_at_vertex)
        changed = int((np.abs(after - weight).max(axis=1) > 1e-6).sum())
        if changed:
            most = profile.most_at_vertex or profile.most_grounds
            out.append(
                Finding(
                    "budget grounds", body.name, changed,
                    f"more than {counted(most, 'ground')} at {counted(changed, 'vertex', 'vertices')}",
                    "The smallest shares are left out as it is delivered; paint less of them to choose yourself", False,
                )
            )  # fmt: skip
    return out


CHECK = Check("budget", "Budgets", find)
