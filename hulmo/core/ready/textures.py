"""Images of grounds that are missing, of odd sizes, or larger than the target takes."""

from hulmo.core.deliver.profile import Profile
from hulmo.core.errors import FileProblem
from hulmo.core.ground.library import PARTS
from hulmo.core.ground.textures import has_image, image_size
from hulmo.core.io.delivery import used_grounds
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.ready.finding import Check, Finding


def find(project: Project, profile: Profile, progress: Progress) -> list[Finding]:
    """Of the grounds that lie anywhere on what is shown."""
    bodies = [body for body in project.bodies if body.shown]
    out = []
    for column in used_grounds(bodies, len(project.grounds)) if bodies else []:
        ground = project.grounds[column]
        for part in PARTS:
            try:
                if not has_image(ground, part, project.textures):
                    continue
                width, height = image_size(ground, part, project.textures)
            except FileProblem as error:
                out.append(Finding("textures missing", "", 1, str(error), "Give the ground another texture"))
                continue
            what = f"{ground.name}: {part} is {width} x {height}"
            if profile.texture and max(width, height) > profile.texture:
                out.append(
                    Finding(
                        "textures large", "", 1, f"{what}; the target takes {profile.texture}",
                        "It is made smaller in the delivery; give the ground a smaller one if that shows", False,
                    )
                )  # fmt: skip
            elif width & (width - 1) or height & (height - 1):
                out.append(
                    Finding(
                        "textures odd", "", 1, f"{what}, no powers of two", "Some targets scale such images; make it square",
                        False,
                    )
                )  # fmt: skip
    return out


CHECK = Check("textures", "Textures", find)
