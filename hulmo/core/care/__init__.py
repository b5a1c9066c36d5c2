"""Checks of a mesh. To add one: write its file, add one line here."""

from hulmo.core.care import coarse_border, crossing, doubles, misfit, stretched, thin, turned, valence
from hulmo.core.care.check import Check

CHECKS: dict[str, Check] = {
    check.name: check
    for check in (
        thin.CHECK,
        stretched.CHECK,
        valence.CHECK,
        turned.CHECK,
        doubles.CHECK,
        crossing.CHECK,
        coarse_border.CHECK,
        misfit.CHECK,
    )
}
