"""What a body knows of the waters that stand on it."""

from dataclasses import dataclass

Triple = tuple[float, float, float]


@dataclass(frozen=True)
class WaterLevel:
    """Water that stands at a level.

    Attributes
    ----------
    ident : int
        Number of the water among the objects of the scene.
    level : float
        Metres by the body's own down.
    seed : tuple of float or None
        Of a pond: where it was pressed in, metres of the world. None: everywhere.
    """

    ident: int
    level: float
    seed: Triple | None = None
