"""Readiness: all that is known to go wrong with a delivery. To add a check: write its file, add one line here."""

from hulmo.core.deliver.profile import Profile
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.ready import budget, coordinates, mesh, place, props, textures, waters
from hulmo.core.ready.finding import Check, Finding

CHECKS: dict[str, Check] = {
    entry.name: entry
    for entry in (
        mesh.CHECK, budget.CHECK, coordinates.CHECK, textures.CHECK, props.CHECK, waters.CHECK, place.CHECK,
    )
}  # fmt: skip


def findings(project: Project, profile: Profile, progress: Progress) -> tuple[list[Finding], list[Finding]]:
    """What every check finds, what fails before what is only worth knowing; and apart from it what has been waived."""
    found: list[Finding] = []
    for done, check in enumerate(CHECKS.values()):
        progress.step(done / len(CHECKS), check.label.lower())
        found += check.find(project, profile, progress.part(done / len(CHECKS), (done + 1) / len(CHECKS)))
    known = {(entry.check, entry.body) for entry in project.waivers}
    open_ = [entry for entry in found if (entry.check, entry.body) not in known]
    waived = [entry for entry in found if (entry.check, entry.body) in known]
    return sorted(open_, key=lambda entry: not entry.fails), waived
