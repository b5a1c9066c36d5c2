"""A sky taken from a picture."""

import pathlib
from typing import Self

import msgspec

from hulmo.core.commands.command import Command
from hulmo.core.dress.light import LOWEST
from hulmo.core.edit import Delta, Edit, FieldDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.io.sky_file import read_sky
from hulmo.core.progress import Progress
from hulmo.core.project import Project


class SetSky(Command, frozen=True, tag="set_sky"):
    """Take the sky from a picture of all directions, which also lights the scene; or give it back to the air.

    The picture is kept in the project.

    Attributes
    ----------
    file : str
        .hdr, .exr, .png, .jpg or .tif, twice as wide as high; empty: the sky of the air.
    """

    file: str = ""

    @property
    def reads_files(self) -> bool:
        """See `Command.reads_files`."""
        return bool(self.file)

    def located(self, folder: pathlib.Path) -> Self:
        """See `Command.located`."""
        return msgspec.structs.replace(self, file=str(folder / self.file)) if self.file else self

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        progress.step(0.1, "reading the picture")
        sky = read_sky(pathlib.Path(self.file), "set_sky") if self.file else None
        label = f"Sky from {sky.name}" if sky is not None else "Sky of the air"
        return Edit(label, (FieldDelta("sky", project.sky, sky),))


class SunFromSky(Command, frozen=True, tag="sun_from_sky"):
    """Put the sun where the picture of the sky is brightest."""

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        if project.sky is None:
            raise InvalidInput("sun_from_sky: the sky is that of the air; take it from a picture first")
        bearing, altitude = project.sky.sun()
        light = msgspec.structs.replace(
            project.light, bearing=(bearing + project.light.sky_turn) % 360.0, altitude=max(altitude, LOWEST),
            latitude=None, longitude=None,
        )  # fmt: skip
        deltas: tuple[Delta, ...] = (FieldDelta("light", project.light, light),)
        return Edit("Sun from the sky", deltas)
