"""Kinds of scene objects. To add one: write its file, add one line here."""

from hulmo.core.objects.figure import FIGURE
from hulmo.core.objects.kind import ObjectKind
from hulmo.core.objects.lamp import LAMP
from hulmo.core.objects.level_water import LEVEL_WATER
from hulmo.core.objects.outline import OUTLINE
from hulmo.core.objects.pond import POND
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.objects.track import TRACK
from hulmo.core.objects.viewpoint import VIEWPOINT

KINDS: dict[str, ObjectKind] = {
    kind.name: kind for kind in (FIGURE, VIEWPOINT, LAMP, OUTLINE, TRACK, LEVEL_WATER, POND)
}


def standing(objects: tuple[SceneObject, ...]) -> tuple[SceneObject, ...]:
    """Those that have a place of their own: all but the lines on bodies."""
    return tuple(entry for entry in objects if entry.kind not in KINDS or not KINDS[entry.kind].on_body)
