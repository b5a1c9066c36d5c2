"""Props that float, lie buried or over each other."""

import numpy as np

from hulmo.core.commands import CureProps
from hulmo.core.counted import counted
from hulmo.core.deliver.profile import Profile
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.props.around import corners_around
from hulmo.core.props.faults import KINDS, STEEPEST, faults_of
from hulmo.core.props.tray import tray_of
from hulmo.core.ready.finding import Check, Finding

FAILS = ("floats", "buried")

FEW = 0.02
"""Share of a body's props up to which those at fault may be delivered all the same."""


def find(project: Project, profile: Profile, progress: Progress) -> list[Finding]:
    """Of each body that props stand on."""
    out = []
    for body in project.bodies:
        if not body.shown or body.strewn is None or not body.strewn.there.any():
            continue
        tray = tray_of(project.props, project.prop_meshes)
        masks, _ = faults_of(body, body.strewn, tray, STEEPEST, progress.part(0.0, 1.0))
        for name, mask in masks.items():
            count = int(mask.sum())
            if count:
                few = count <= FEW * int(body.strewn.there.sum())
                out.append(
                    Finding(
                        f"props {name}", body.name, count, f"{KINDS[name]}: {counted(count, 'prop')}",
                        "Cure them in Prop care", name in FAILS and not few, CureProps(body.name, name),
                        corners_around(body, body.strewn.taken(np.flatnonzero(mask))),
                    )
                )  # fmt: skip
    return out


CHECK = Check("props", "Props", find)
