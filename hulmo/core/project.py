"""The document."""

from collections.abc import Mapping
from types import MappingProxyType

from hulmo.core.dress.light import Light
from hulmo.core.dress.sky_picture import SkyPicture
from hulmo.core.dress.viewpoint import Viewpoint
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.ground import Blend, Ground
from hulmo.core.ground.library import shipped
from hulmo.core.mesh.body import Body
from hulmo.core.objects.figure import FIGURE
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.objects.viewpoint import VIEWPOINT, viewpoint_of
from hulmo.core.objects.water import levels_on
from hulmo.core.props.prop import Prop, PropMesh
from hulmo.core.props.tray import starter_props
from hulmo.core.waiver import Waiver

STARTER = ("bleached_ledge", "basalt", "thrift_turf", "shell_sand")


class Project:
    """Bodies, grounds, light, objects of the scene. Changed by commands only.

    Attributes
    ----------
    name : str
    bodies : tuple of Body
    grounds : tuple of Ground
        Their order is the order of the weight columns.
    blend : Blend
    light : Light
    sky : SkyPicture or None
        None: that of the air.
    objects : tuple of SceneObject
        What stands in the scene beside the bodies: figures, viewpoints.
    props : tuple of Prop
        The tray that props are strewn from.
    prop_meshes : mapping of str to PropMesh
        Meshes of those that do not come with the program.
    textures : mapping
        Texture sets kept in the project: set name, part, encoded image.
    sources : mapping
        Where they came from: set name, part, path. Read again when the files change.
    waivers : tuple of Waiver
        Faults that are meant.
    delivers_all : bool
        Whether grounds that lie nowhere are delivered as well: of a part of a delivery whose files have the same columns.
    coarser : mapping of int to (int, float)
        Of what is delivered: the body that a body is a coarser level of, by their numbers, and metres from which it does.
    """

    def __init__(self, name: str = "Untitled") -> None:
        self.name = name
        self._bodies: tuple[Body, ...] = ()
        self._objects: tuple[SceneObject, ...] = ()
        self.grounds: tuple[Ground, ...] = starter_grounds()
        self.blend = Blend()
        self.light = Light()
        self.sky: SkyPicture | None = None
        self.props: tuple[Prop, ...] = starter_props()
        self.prop_meshes: Mapping[str, PropMesh] = MappingProxyType({})
        self.textures: Mapping[str, Mapping[str, bytes]] = MappingProxyType({})
        self.sources: Mapping[str, Mapping[str, str]] = MappingProxyType({})
        self.delivers_all = False
        self.coarser: Mapping[int, tuple[int, float]] = MappingProxyType({})
        self.waivers: tuple[Waiver, ...] = ()

    @property
    def bodies(self) -> tuple[Body, ...]:
        """Sculptable meshes."""
        return self._bodies

    @bodies.setter
    def bodies(self, bodies: tuple[Body, ...]) -> None:
        self._bodies = bodies
        self.tell_waters()

    @property
    def objects(self) -> tuple[SceneObject, ...]:
        """What stands in the scene beside the bodies."""
        return self._objects

    @objects.setter
    def objects(self, objects: tuple[SceneObject, ...]) -> None:
        self._objects = objects
        self.tell_waters()

    def tell_waters(self) -> None:
        """Tell every body which waters stand on it; called where objects, bodies or their down are others."""
        for body in self._bodies:
            body.waters = levels_on(self._objects, body.ident, body.down.kind == "level", body.down.sea)

    @property
    def viewpoints(self) -> tuple[Viewpoint, ...]:
        """Named places to look from, in their order."""
        return tuple(viewpoint_of(entry) for entry in self.objects if entry.kind == VIEWPOINT.name)

    @property
    def figure(self) -> tuple[float, float, float] | None:
        """Where the first scale figure stands, metres."""
        return next((entry.at for entry in self.objects if entry.kind == FIGURE.name), None)

    def body(self, ident: int) -> Body:
        """A body by its number."""
        return next(body for body in self.bodies if body.ident == ident)

    def body_named(self, name: str, where: str) -> Body:
        """A body by name.

        Raises
        ------
        InvalidInput
            No such body.
        """
        for body in self.bodies:
            if body.name == name:
                return body
        known = ", ".join(repr(body.name) for body in self.bodies) or "none"
        raise InvalidInput(f"{where}: there is no body {name!r}; the project has {known}")

    def unlocked_body(self, name: str, where: str) -> Body:
        """A body by name that may be worked on.

        Raises
        ------
        InvalidInput
            No such body, or it is locked.
        """
        body = self.body_named(name, where)
        if body.locked:
            raise InvalidInput(f"{where}: the body {name!r} is locked; unlock it first")
        return body

    def ground_named(self, name: str, where: str) -> int:
        """Column of a ground by name.

        Raises
        ------
        InvalidInput
            No such ground.
        """
        for column, ground in enumerate(self.grounds):
            if ground.name == name:
                return column
        known = ", ".join(repr(ground.name) for ground in self.grounds)
        raise InvalidInput(f"{where}: there is no ground {name!r}; the project has {known}")

    @property
    def ground_names(self) -> tuple[str, ...]:
        """Names of the palette, in the order of the weight columns."""
        return tuple(ground.name for ground in self.grounds)

    def free_body_name(self, wanted: str) -> str:
        """The wanted name, or it with a number where it is taken."""
        return free_name(wanted, [body.name for body in self.bodies])


def free_name(wanted: str, taken: list[str]) -> str:
    """The wanted name, or it with the first number that makes it new."""
    name, number = wanted, 2
    while name in taken:
        name, number = f"{wanted} {number}", number + 1
    return name


def starter_grounds() -> tuple[Ground, ...]:
    """The grounds a new project begins with: a light one first, and none that shows its repeats."""
    library = shipped()
    return tuple(Ground(library[name].label, name, library[name].tile, break_up=True) for name in STARTER)
