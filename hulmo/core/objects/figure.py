"""Scale figures: persons of 1.8 m."""

from hulmo.core.objects.figure_mesh import figure_mesh
from hulmo.core.objects.kind import ObjectKind, put_by
from hulmo.core.objects.scene_object import SceneObject


def _check(entry: SceneObject, where: str) -> None:
    pass  # nothing more is asked of it than of any object


FIGURE = ObjectKind(
    "figure",
    "Scale figure",
    "A person of 1.8 m, who tells how large everything is.",
    (),
    figure_mesh,
    (0.75, 0.24, 0.10),
    False,
    _check,
    put_by,
)
