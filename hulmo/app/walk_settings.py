"""How one walks through the scene."""

from hulmo.core.dress.walking import EYES
from hulmo.core.setting import Number, Setting, Switch

WALK: tuple[Setting, ...] = (
    Number("eyes", "Eyes", "m", 0.1, 10.0, EYES, "Height of the eyes above the ground.", comfort=(1.0, 2.0)),
    Number("speed", "Pace", "m/s", 0.1, 500.0, 1.6, "How fast one goes.", comfort=(0.5, 20.0), curve=2.0),
    Switch("flies", "Fly", False, "Through the air and through walls, wherever one looks."),
)
