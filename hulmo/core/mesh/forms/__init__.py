"""Base forms. To add one: write its file, add one line to `FORMS`."""

from hulmo.core.mesh.forms import block, box_sphere, column, disc, icosphere, sheet
from hulmo.core.mesh.forms.form import BaseForm, Counts, Shape

FORMS: dict[str, BaseForm] = {
    form.name: form
    for form in (
        sheet.FORM,
        disc.FORM,
        column.FORM,
        icosphere.FORM,
        box_sphere.FORM,
        block.FORM,
    )
}

__all__ = ["FORMS", "BaseForm", "Counts", "Shape"]
