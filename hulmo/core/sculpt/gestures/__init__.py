"""What a pointer's way means to a brush: dabs along it, taking hold, or setting down. One gesture a file."""

from typing import TYPE_CHECKING

from hulmo.core.sculpt.gestures.dabbing import Dabbing
from hulmo.core.sculpt.gestures.gesture import Gesture
from hulmo.core.sculpt.gestures.grabbing import Grabbing
from hulmo.core.sculpt.gestures.placing import Placing

if TYPE_CHECKING:
    from hulmo.core.sculpt.stroke import Stroke


def gesture_of(stroke: "Stroke") -> Gesture:
    """The gesture of a stroke's brush."""
    if stroke.brush.grabs:
        return Grabbing(stroke)
    return Placing(stroke) if stroke.brush.places else Dabbing(stroke)
