"""Sizes and places that a target cannot hold, and names that it cannot take."""

import re

import numpy as np

from hulmo.core.deliver.profile import Profile
from hulmo.core.file_name import safe_name
from hulmo.core.low_high import low_high
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.ready.finding import Check, Finding

STEP = 0.001
"""Metres that single precision must still tell apart across a body."""

SMALL, LARGE = 0.02, 100_000.0
"""Metres: extents beyond which it is asked whether the unit is right; a figure is 1.8 m."""


def find(project: Project, profile: Profile, progress: Progress) -> list[Finding]:
    """Of each body that is shown."""
    out = []
    taken: dict[str, str] = {}
    for body in project.bodies:
        if not body.shown:
            continue
        rows = np.unique(body.corners.live_triangles())
        if not rows.size:
            continue
        place = body.vertices["position"][rows].astype(np.float64)
        low, high = low_high(place)
        extent = float((high - low).max())
        reach = float(np.abs(body.placed(place)).max())
        if not SMALL <= extent <= LARGE:
            out.append(
                Finding("place size", body.name, 1, f"{extent:.3g} m across, where a figure is 1.8 m",
                        "Scale it in Move, turn, scale, or import it in another unit", False)
            )  # fmt: skip
        far = reach if profile.format in ("obj", "stl") else float(np.abs(place).max())
        if np.spacing(np.float32(far)) > STEP:
            out.append(
                Finding("place far", body.name, 1,
                        f"lies {far:,.0f} m from 0, where single precision tells {np.spacing(np.float32(far)):.3g} m apart",
                        "Move it nearer to 0, or deliver it as glTF or USD, which keep its place apart from its shape")
            )  # fmt: skip
        word = safe_name(body.name).lower()
        if word in taken:
            out.append(
                Finding("names clash", body.name, 1, f"is written like {taken[word]!r} where names are plain",
                        "Give one of them another name", profile.files == "many")
            )  # fmt: skip
        taken[word] = body.name
        if profile.names == "plain" and not re.fullmatch(r"[A-Za-z0-9_. -]+", body.name):
            out.append(
                Finding("names plain", body.name, 1, f"the target takes plain names; it is written as {safe_name(body.name)}",
                        "Rename it to choose yourself", False)
            )  # fmt: skip
    return out


CHECK = Check("place", "Sizes, places and names", find)
