"""Kinds of scene objects. To add one: write its file, add one line here."""

from hulmo.core.objects.figure import FIGURE
from hulmo.core.objects.kind import ObjectKind
from hulmo.core.objects.outline import OUTLINE
from hulmo.core.objects.track import TRACK
from hulmo.core.objects.viewpoint import VIEWPOINT

KINDS: dict[str, ObjectKind] = {kind.name: kind for kind in (FIGURE, VIEWPOINT, OUTLINE, TRACK)}
