"""Which other bodies a stroke on the active one goes over."""

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.stitched import STITCHED
from hulmo.core.project import Project
from hulmo.core.setting import Choice
from hulmo.core.stitch import neighbours

OVER = Choice(
    "over", "Goes over",
    (
        ("body", "This body", "Strokes stay on the chosen body; stitched borders follow it."),
        ("stitched", "Stitched neighbours", "Strokes go on over bodies whose borders are stitched to this one's."),
        ("shown", "All bodies shown", "Strokes go on over every body that is shown and not locked."),
    ),
    "stitched", "Which bodies a stroke works on.",
)  # fmt: skip
"""Setting of every brush, in projects of several bodies."""


def going_over(project: Project, body: Body, over: str) -> tuple[Body, ...]:
    """Bodies other than one that strokes on it go over: shown, not locked, in the order of the project."""
    if over == "body" or len(project.bodies) < 2:
        return ()
    others = tuple(entry for entry in project.bodies if entry is not body and entry.shown and not entry.locked)
    if over == "shown":
        return others
    if STITCHED not in body.vertices:
        return ()
    beside = neighbours(project, body)
    return tuple(entry for entry in others if entry in beside)
