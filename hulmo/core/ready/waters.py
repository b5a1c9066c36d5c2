"""Waters that do not stand anywhere."""

from hulmo.core.deliver.profile import Profile
from hulmo.core.errors import InvalidInput
from hulmo.core.objects.water import is_water
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.ready.finding import Check, Finding
from hulmo.core.water.surface import water_surface


def find(project: Project, profile: Profile, progress: Progress) -> list[Finding]:
    """Of each water that is shown."""
    out = []
    for entry in project.objects:
        if not is_water(entry) or not entry.shown:
            continue
        try:
            found = water_surface(project.bodies, project.objects, entry, progress.part(0.0, 1.0))
            problem = "" if found.triangles.size else "it would have no surface"
        except InvalidInput as error:
            problem = str(error)
        if problem:
            out.append(
                Finding(
                    "waters none", "", 1, f"{entry.name} does not stand: {problem}", "Move or remove it in In the scene"
                )
            )
    return out


CHECK = Check("waters", "Waters", find)
