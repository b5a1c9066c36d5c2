"""What dresses the demos: water, props, lamps, light and places to look from. Run by itself, it lays this on built demos:
python tools/dress.py NAME FILE_WITHOUT_DRESS."""

import pathlib
import sys

from hulmo.core.commands import (
    AddObject,
    AddWater,
    ChangeProp,
    Command,
    CureProps,
    SetLight,
    SetStrewRules,
    SetViewpoint,
)
from hulmo.core.ground.rules import Condition
from hulmo.core.history import History
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.props.strew_rules import StrewRule
from hulmo.core.recipe import read_recipe, write_recipe
from hulmo.demo import FOLDER


def rule(name: str, shares: dict[str, float], *conditions: Condition, **settings: float | str | bool) -> StrewRule:
    return StrewRule(name, shares, dict(settings), conditions)


def skerry() -> list[Command]:
    """A sea, boulders at the foot, tussocks on the turf, driftwood on the sand of the cave."""
    return [
        AddWater("level_water", level=1.3, name="Sea", values={
            "size": 1600.0, "clear": 4.0, "waves": 7.0, "length": 5.0, "foam": 0.9, "margin": 1.0}),
        SetLight(bearing=168.0, altitude=23.0, sun=3.6, sky=1.0, haze=1.4, sight=9000.0, fog_fall=60.0),
        ChangeProp("Wind bent tree", values={"smallest": 0.6, "largest": 1.0}),
        SetStrewRules("Skerry", (
            rule("Foot of the cliff", {"Boulder 1": 1.0, "Boulder 2": 2.0, "Boulder 3": 1.0, "Slab 2": 1.0},
                 density=0.25, slope_to=62.0, heights=True, height_from=0.2, height_to=4.5, size=0.8, lean=14.0, seed=3),
            rule("Trees", {"Wind bent tree": 1.0}, Condition("slope", {}, None, 26.0, 0.0, 6.0),
                 density=0.016, ground="Thrift turf", heights=True, height_from=24.0, height_to=60.0, spacing=1.0, seed=5),
            rule("Stones", {"Boulder 3": 3.0, "Slab 1": 1.0, "Slab 3": 1.0},
                 density=0.035, slope_to=34.0, heights=True, height_from=12.0, height_to=60.0, size=0.55, seed=8),
            rule("Scree", {"Scree": 1.0}, density=0.5, ground="Scree", slope_to=48.0, size=0.8, seed=4),
            rule("Driftwood", {"Driftwood": 1.0}, density=0.05, ground="Shell sand", slope_to=40.0, heights=True,
                 height_from=1.4, height_to=9.0, seed=6),
            rule("Tussocks", {"Tussock": 6.0, "Shrub": 0.5}, density=2.2, ground="Thrift turf", slope_to=44.0, patches=5.0,
                 seed=2),
        )),
        CureProps("Skerry", "floats"),
        SetViewpoint("From the boat", (52.0, 6.0, 54.0), (2.0, 13.0, 0.0), 40.0),
        SetViewpoint("From the air", (58.0, 62.0, 50.0), (0.0, 14.0, 0.0), 36.0),
        SetViewpoint("Through the arch", (67.0, 5.0, 38.0), (3.0, 12.5, -8.0), 40.0),
        SetViewpoint("On the turf", (19.4, 28.6, 13.6), (2.0, 34.0, -2.0), 58.0),
    ]  # fmt: skip


def moon() -> list[Command]:
    """Black space, a low sun, ice shards where it is low."""
    return [
        SetLight(bearing=118.0, altitude=13.0, sun=5.0, sky=0.10, exposure=0.1, air=0.0, haze=0.0),
        ChangeProp("Ice shard", values={"smallest": 0.5, "largest": 1.6}),
        SetStrewRules("Vesper", (
            rule("Shards", {"Ice shard": 1.0}, Condition("height", {}, None, -0.35, 0.0, 0.3), density=0.12, slope_to=46.0,
                 patches=7.0, size=1.2, lean=12.0, seed=2),
            rule("Boulders", {"Boulder 2": 1.0, "Boulder 3": 2.0}, density=0.005, slope_to=40.0, size=0.8, seed=3),
        )),
        CureProps("Vesper", "floats"),
        SetViewpoint("From orbit", (60.0, 46.0, 101.0), (0.0, 0.0, 0.0), 44.0),
        SetViewpoint("Low over the plain", (6.0, 45.6, 12.0), (-3.0, 41.0, -6.0), 52.0),
        SetViewpoint("Along the terminator", (-52.0, 30.0, 62.0), (0.0, 8.0, 0.0), 40.0),
        SetViewpoint("Over the north", (18.0, 62.0, 30.0), (0.0, 38.0, 0.0), 46.0),
    ]  # fmt: skip


def gallery() -> list[Command]:
    """A stream on the floor, dripstone, and lamps along the way."""
    return [
        AddWater("pond", (4.0, 4.6, -6.0), "Gill", None, "Pool", values={
            "clear": 1.6, "shallow": "#5b8a7c", "deep": "#0d2624", "waves": 1.5, "length": 0.8, "foam": 0.0}),
        SetLight(bearing=12.0, altitude=64.0, sun=5.0, sky=0.22, exposure=0.75),
        SetStrewRules("Gill", (
            rule("Dripstone", {"Stalagmite": 1.0}, Condition("shelter", {}, 35.0, None, 20.0, 0.0), density=0.12,
                 slope_to=34.0, heights=True, height_from=4.0, height_to=16.0, patches=4.0, seed=2),
            rule("Fallen blocks", {"Boulder 3": 2.0, "Slab 2": 1.0, "Scree": 2.0}, density=0.05, slope_to=36.0, heights=True,
                 height_from=3.2, height_to=14.0, size=0.7, seed=3),
        )),
        CureProps("Gill", "floats"),
        *(AddObject("lamp", f"Lamp {number}", place, values={"lumens": lumens, "reach": 16.0, "colour": "#ffc478"})
          for number, (place, lumens) in enumerate(LAMPS, 1)),
        SetViewpoint("Over the pool", (7.6, 6.4, 1.0), (-3.0, 4.6, -5.0), 58.0),
    ]  # fmt: skip


LAMPS: tuple[tuple[tuple[float, float, float], float], ...] = (
    ((-17.0, 7.4, 1.4), 2500.0),
    ((-8.0, 6.6, -3.6), 3500.0),
    ((4.0, 6.0, -6.0), 4500.0),
    ((12.0, 7.0, 1.4), 9000.0),
    ((-0.6, 6.4, -12.0), 8000.0),
)


def spires() -> list[Command]:
    """Tufts and stones on the caps, and mist below."""
    names = ("Great spire", "East spire", "West spire")
    return [
        SetLight(bearing=228.0, altitude=21.0, sun=3.4, sky=0.9, haze=2.5, sight=260.0, fog_level=-6.0, fog_fall=9.0),
        *(SetStrewRules(name, (
            rule("Tufts", {"Tussock": 3.0, "Shrub": 1.0}, density=0.45, ground="Turf", slope_to=40.0, seed=4),
            rule("Stones", {"Boulder 3": 1.0}, density=0.05, ground="Turf", slope_to=30.0, size=0.5, seed=5),
        )) for name in names),
        *(CureProps(name, "floats") for name in 2 * names),
    ]  # fmt: skip


DRESS = {"tern-skerry": skerry, "vesper": moon, "gill-gallery": gallery, "cobble-spires": spires}


def main(name: str, plain: str) -> None:
    """Dress a built demo, and its recipe with it."""
    source = pathlib.Path(plain)
    history = History(open_project(source))
    commands = DRESS[name]()
    for command in commands:
        history.do_if_any(command)
        print(type(command).__name__, end=" ", flush=True)
    print()
    for body in history.project.bodies:
        if body.strewn is not None:
            print(body.name, body.strewn.count)
    save_project(history.project, FOLDER / f"{name}.hulmo", small=True)
    recipe = read_recipe(source.with_suffix(".json"))
    write_recipe(FOLDER / f"{name}.json", [*recipe, *commands])


if __name__ == "__main__":
    main(*sys.argv[1:])
