"""Makes the shipped sets of ground rules: python tools/make_rule_sets.py"""

from hulmo.core.ground.ground import Ground
from hulmo.core.ground.library import shipped
from hulmo.core.ground.rule_sets import FOLDER, encoded_rule_set
from hulmo.core.ground.rules import Condition, Rule, checked


def rule(texture: str, strength: float, *conditions: Condition) -> Rule:
    """A rule that lays a shipped ground."""
    return Rule(shipped()[texture].label, conditions, strength)


def slope(low: float | None, high: float | None, soft: float) -> Condition:
    """Between two slopes, degrees."""
    return Condition("slope", {}, low, high, soft if low is not None else 0.0, soft if high is not None else 0.0)


def height(low: float | None, high: float | None, soft: float) -> Condition:
    """Between two heights over zero, metres."""
    return Condition(
        "height", {"level": 0.0}, low, high, soft if low is not None else 0.0, soft if high is not None else 0.0
    )


def hollow(scale: float, high: float, soft: float) -> Condition:
    """Hollows of a scale in metres."""
    return Condition("bend", {"scale": scale}, None, high, 0.0, soft)


def ridge(scale: float, low: float, soft: float) -> Condition:
    """Ridges of a scale in metres."""
    return Condition("bend", {"scale": scale}, low, None, soft, 0.0)


def noise(size: float, seed: int, low: float, soft: float) -> Condition:
    """Patches of noise, metres across."""
    return Condition("noise", {"size": size, "octaves": 4, "seed": seed}, low, None, soft, 0.0)


SETS = {
    "sea_stack": (
        "Sea stack",
        "basalt",
        rule("bleached_ledge", 0.9, slope(None, 42.0, 16.0), noise(9.0, 3, -25.0, 40.0)),
        rule("scree", 0.95, hollow(2.5, -14.0, 12.0), slope(None, 55.0, 12.0)),
        rule("thrift_turf", 1.0, slope(None, 36.0, 16.0), height(13.0, None, 5.0), noise(8.0, 8, -70.0, 45.0)),
        rule("shell_sand", 1.0, slope(None, 20.0, 10.0), height(None, 3.0, 1.5)),
        rule("wet_weed", 0.95, height(None, 1.6, 1.4), slope(14.0, None, 10.0), noise(3.0, 2, -50.0, 45.0)),
    ),
    "ice_moon": (
        "Ice moon",
        "blue_ice",
        rule("frost", 0.95, ridge(4.0, 18.0, 10.0), noise(14.0, 5, -45.0, 45.0)),
        rule("dark_dust", 0.95, hollow(4.0, -8.0, 14.0)),
        rule("sulphur", 0.9, hollow(2.0, -16.0, 10.0), noise(22.0, 11, 18.0, 28.0)),
    ),
    "cave": (
        "Cave",
        "broken_limestone",
        rule("flowstone", 0.95, slope(70.0, None, 25.0), noise(5.0, 4, -20.0, 40.0)),
        rule("mud_bank", 1.0, slope(None, 32.0, 12.0), noise(6.0, 9, -10.0, 35.0)),
        rule("washed_gravel", 1.0, slope(None, 24.0, 10.0), hollow(2.0, -8.0, 10.0)),
    ),
}


def main() -> None:
    """Write all sets."""
    grounds = tuple(Ground(entry.label, entry.name, entry.tile) for entry in shipped().values())
    for name, (label, base, *rules) in SETS.items():
        data = encoded_rule_set(label, shipped()[base].label, grounds, checked(rules, name))
        (FOLDER / f"{name}.json").write_bytes(data + b"\n")


if __name__ == "__main__":
    main()
