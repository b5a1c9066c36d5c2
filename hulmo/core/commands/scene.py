"""Change what belongs to the whole scene: blend, light, viewpoints, name."""

import math

from hulmo.core.commands.command import Command
from hulmo.core.dress.light import Light
from hulmo.core.dress.viewpoint import Viewpoint
from hulmo.core.edit import Edit, FieldDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.ground import BLEND_MODES, LEAST_DEPTH, MOST_GROUNDS, Blend
from hulmo.core.progress import Progress
from hulmo.core.project import Project


class SetBlend(Command, frozen=True, tag="set_blend"):
    """How grounds meet: by weight alone ("linear") or by height ("height", with a depth from 0.01 to 1).

    `together` is how many grounds the target of the delivery can blend at a vertex, 1 to 16; with `keep_together` brushes let
    no more than that meet.
    """

    mode: str = "height"
    depth: float = 0.35
    together: int = 4
    keep_together: bool = False

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        if self.mode not in BLEND_MODES:
            raise InvalidInput(f"set_blend: mode is {self.mode!r}; it must be one of {', '.join(BLEND_MODES)}")
        if not LEAST_DEPTH <= self.depth <= 1.0:
            raise InvalidInput(f"set_blend: depth is {self.depth:g}; it must lie between {LEAST_DEPTH} and 1")
        if not 1 <= self.together <= MOST_GROUNDS:
            raise InvalidInput(f"set_blend: together is {self.together}; it must lie between 1 and {MOST_GROUNDS}")
        blend = Blend(self.mode, self.depth, self.together, self.keep_together)
        return Edit("Blend of grounds", (FieldDelta("blend", project.blend, blend),))


class SetLight(Command, frozen=True, tag="set_light"):
    """Sun and sky; units as in `Light`."""

    bearing: float = 130.0
    altitude: float = 38.0
    sun: float = 3.0
    sky: float = 1.0
    exposure: float = 0.0

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        limits = {
            "bearing": (0.0, 360.0),
            "altitude": (1.0, 90.0),
            "sun": (0.0, 20.0),
            "sky": (0.0, 10.0),
            "exposure": (-6.0, 6.0),
        }
        for name, (low, high) in limits.items():
            value = getattr(self, name)
            if not low <= value <= high:
                raise InvalidInput(f"set_light: {name} is {value:g}; it must lie between {low:g} and {high:g}")
        light = Light(self.bearing, self.altitude, self.sun, self.sky, self.exposure)
        return Edit("Light", (FieldDelta("light", project.light, light),))


class SetViewpoint(Command, frozen=True, tag="set_viewpoint"):
    """Save a camera; one of the same name is replaced."""

    name: str
    eye: tuple[float, float, float]
    target: tuple[float, float, float]
    field: float = 40.0

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        if not all(math.isfinite(value) for value in (*self.eye, *self.target)) or self.eye == self.target:
            raise InvalidInput(f"set_viewpoint {self.name!r}: eye and target must be two different finite points")
        if not 5.0 <= self.field <= 120.0:
            raise InvalidInput(f"set_viewpoint {self.name!r}: field is {self.field:g}°; it must lie between 5 and 120°")
        rest = tuple(view for view in project.viewpoints if view.name != self.name)
        views = (*rest, Viewpoint(self.name, self.eye, self.target, self.field))
        return Edit(f"Viewpoint {self.name}", (FieldDelta("viewpoints", project.viewpoints, views),))


class SetName(Command, frozen=True, tag="set_name"):
    """Name the project."""

    name: str

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        if not self.name.strip():
            raise InvalidInput("set_name: a project needs a name")
        return Edit("Name", (FieldDelta("name", project.name, self.name),))


class PlaceFigure(Command, frozen=True, tag="place_figure"):
    """Stand the scale figure, a person of 1.8 m, somewhere; with no place it goes.

    Attributes
    ----------
    at : list of [x, y, z] or None
        Where its feet are, metres.
    """

    at: tuple[float, float, float] | None = None

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        if self.at is not None and not all(math.isfinite(value) and abs(value) < 1e6 for value in self.at):
            raise InvalidInput("place_figure: the place must be three finite numbers of metres")
        return Edit("Place figure", (FieldDelta("figure", project.figure, self.at),))
