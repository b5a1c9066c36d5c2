"""Change what belongs to the whole scene: blend, light, viewpoints, name."""

import msgspec

from hulmo.core.commands.command import Command
from hulmo.core.commands.objects import free_ident, objects_edit
from hulmo.core.dress.light import LOWEST, Light, check_light
from hulmo.core.dress.sun_path import sun_at
from hulmo.core.dress.viewpoint import Viewpoint, check_viewpoint
from hulmo.core.edit import Edit, FieldDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.check_ground import check_blend
from hulmo.core.ground.ground import Blend
from hulmo.core.objects.figure import FIGURE
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.objects.viewpoint import VIEWPOINT, viewpoint_values
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name


class SetBlend(Command, frozen=True, tag="set_blend"):
    """How grounds meet: by weight alone ("linear") or by height ("height", with a depth from 0.01 to 1).

    `together` is how many grounds the target of the delivery can blend at a vertex, 1 to 16; with `keep_together` brushes let
    no more than that meet.

    Attributes
    ----------
    mode : str
        linear or height.
    depth : float
        0.01 to 1.
    together : int
        1 to 16.
    keep_together : bool
        Whether brushes keep to it.
    """

    mode: str = "height"
    depth: float = 0.35
    together: int = 4
    keep_together: bool = False

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        blend = Blend(self.mode, self.depth, self.together, self.keep_together)
        check_blend(blend, "set_blend")
        return Edit("Blend of grounds", (FieldDelta("blend", project.blend, blend),))


class SetLight(Light, Command, frozen=True, tag="set_light"):
    """Sun and sky; units as in `Light`.

    Attributes
    ----------
    bearing, altitude : float
        Degrees: 0 north (-Z), 90 east (+X), from where the sun shines; 0 level, 90 straight above.
    sun, sky : float
        Strength of sunlight, 3 on a clear day, and of sky light, 1 on a clear day.
    exposure : float
        Stops.
    air, haze : float
        Thickness; 1 is a clear day, no air a black sky.
    sight : float
        Metres that one sees in the fog; 0 for none.
    fog_level, fog_fall : float
        Height at which it is so thick, and metres up over which it falls by 1/e; 0: it does not.
    fog_colour : str
        #rrggbb in daylight; empty: that of the sky at the horizon.
    sun_width : float
        Degrees that the sun's disc is wide, 0 to 10.
    sky_turn : float
        Degrees that a sky taken from a picture is turned by; 0: its middle looks north.
    latitude, longitude : float or None
        Degrees north and east. With them the sun stands where it does there, on `day` and at `hour`, and bearing and
        altitude are not asked for.
    day : str
        As 2026-06-21.
    hour, zone : float
        Hours of the clock there, and how many it is ahead of universal time.
    """

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        light = Light(**{name: getattr(self, name) for name in Light.__struct_fields__})
        if light.latitude is not None and light.longitude is not None:
            check_light(msgspec.structs.replace(light, bearing=0.0, altitude=0.0), "set_light")
            bearing, altitude = sun_at(light.latitude, light.longitude, light.day, light.hour, light.zone)
            light = msgspec.structs.replace(light, bearing=bearing, altitude=max(altitude, LOWEST))
        check_light(light, "set_light")
        return Edit("Light", (FieldDelta("light", project.light, light),))


class SetViewpoint(Command, frozen=True, tag="set_viewpoint"):
    """Save a camera; one of the same name is replaced.

    Attributes
    ----------
    eye, target : [x, y, z]
        Metres.
    field : float
        Degrees from the lower to the upper rim of the picture.
    """

    name: str
    eye: tuple[float, float, float]
    target: tuple[float, float, float]
    field: float = 40.0

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        viewpoint = Viewpoint(self.name, self.eye, self.target, self.field)
        check_viewpoint(viewpoint, "set_viewpoint")
        old = next((entry for entry in project.objects if entry.name == self.name), None)
        if old is not None and old.kind != VIEWPOINT.name:
            raise InvalidInput(f"set_viewpoint: {self.name!r} is no viewpoint; choose another name")
        ident, kept = (free_ident(project), {}) if old is None else (old.ident, old.values)
        made = SceneObject(ident, VIEWPOINT.name, self.name, self.eye, values={**kept, **viewpoint_values(viewpoint)})
        objects = tuple(made if entry is old else entry for entry in project.objects)
        objects = (*objects, made) if old is None else objects
        return objects_edit(project, objects, f"Viewpoint {self.name}", "set_viewpoint")


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
    turn : [x, y, z]
        Degrees about X, then Y, then Z.
    """

    at: tuple[float, float, float] | None = None
    turn: tuple[float, float, float] = (0.0, 0.0, 0.0)

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        old = next((entry for entry in project.objects if entry.kind == FIGURE.name), None)
        objects = project.objects
        if self.at is None:
            objects = tuple(entry for entry in objects if entry is not old)
        elif old is not None:
            new = msgspec.structs.replace(old, at=self.at, turn=self.turn)
            objects = tuple(new if entry is old else entry for entry in objects)
        else:
            name = free_name(FIGURE.label, [entry.name for entry in objects])
            objects = (*objects, SceneObject(free_ident(project), FIGURE.name, name, self.at, self.turn))
        return objects_edit(project, objects, "Place figure", "place_figure")
