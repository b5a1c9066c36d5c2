"""Delivery profiles: what a target can take, as a JSON file."""

import pathlib
from typing import Any

import msgspec
import numpy as np

import hulmo.assets
from hulmo.core.errors import FileProblem, InvalidInput, shown
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.json_text import typed_json
from hulmo.core.setting import complete
from hulmo.core.there import is_file

FOLDER = pathlib.Path(hulmo.assets.__file__).parent / "profiles"

LARGEST = 1 << 20
"""Bytes of a profile at the most."""

NAMES = ("any", "plain")


class Profile(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """What a target can take.

    Attributes
    ----------
    name, about : str
    format : str
        Ending of the files.
    settings : dict
        Of the format.
    files : str
        one: all bodies in one file. many: a file for each body, patch and level.
    most_at_vertex : int
        Grounds that may lie at a vertex, 1 to 16; 0: any number.
    most_grounds : int
        Grounds that may lie on a body or patch; 0: any number.
    vertices : int
        That a body or patch may have, as with indices of 16 bits; 0: any number.
    triangles : int
        Of all bodies together at the finest level; 0: any number.
    texture : int
        Longest side of a ground's images, texels: larger ones are delivered smaller; 0: any.
    splat : int
        Texels a side of images of the shares, four grounds to an image, beside every body or patch; 0: none.
    names : str
        any; plain: letters, digits, _ and - alone.
    levels : list of float
        Shares of the triangles of coarser levels, falling; none for the full bodies alone.
    patch : float
        Metres of a patch's side; 0: bodies stay whole.
    volume : bool
        Whether patches are cubes.
    six_sides : bool
        Whether bodies are cut into the six sides of a ball about their middle, as suits moons, and not along a grid.
    skirt : float
        Metres of a band that hangs down from borders, so that no gap shows between levels; 0: none.
    collision : int
        Triangles of a collision body beside each body; 0: none.
    convex : int
        Convex parts that the collision body is made of at the most; 0: it is one mesh.
    pixels, picture, field : float
        Levels are changed where their error is `pixels` of a picture `picture` pixels high with a lens of `field` degrees.
    """

    name: str
    about: str = ""
    format: str = "glb"
    settings: dict[str, Any] = {}
    files: str = "one"
    most_at_vertex: int = 0
    most_grounds: int = 0
    vertices: int = 0
    triangles: int = 0
    texture: int = 0
    splat: int = 0
    names: str = "any"
    levels: tuple[float, ...] = ()
    patch: float = 0.0
    volume: bool = False
    six_sides: bool = False
    skirt: float = 0.0
    collision: int = 0
    convex: int = 0
    pixels: float = 1.0
    picture: float = 1080.0
    field: float = 50.0

    @property
    def cuts(self) -> bool:
        """Whether bodies are cut into patches."""
        return self.six_sides or self.patch > 0


def checked(profile: Profile, where: str) -> Profile:
    """The profile, if it can be.

    Raises
    ------
    InvalidInput
        Says which value cannot be, and what it must be.
    """

    def wrong(name: str, value: object, must: str) -> InvalidInput:
        return InvalidInput(f"{where}: {name} is {shown(value)}; it must {must}")

    if profile.format not in EXPORTERS:
        raise wrong("format", profile.format, f"be one of {', '.join(EXPORTERS)}")
    settings = complete(EXPORTERS[profile.format].settings, profile.settings, f"{where}: settings")
    if (profile.cuts or profile.levels) and settings.get("size", "plain") != "plain" and not settings["grid"]:
        raise wrong("settings: grid", 0, "be above 0 where there are patches or levels: they meet on one grid")
    if profile.files not in ("one", "many"):
        raise wrong("files", profile.files, "be one or many")
    if profile.files == "one" and (profile.levels or profile.cuts or profile.collision):
        raise wrong(
            "files", "one", "be many where there are levels, patches or collision bodies: readers show all of a file"
        )
    if profile.names not in NAMES:
        raise wrong("names", profile.names, f"be one of {', '.join(NAMES)}")
    for name, most in (
        ("most_at_vertex", 16), ("most_grounds", 16), ("vertices", 1 << 31), ("triangles", 1 << 31), ("texture", 1 << 15),
        ("collision", 1_000_000), ("convex", 256),
    ):  # fmt: skip
        if not 0 <= getattr(profile, name) <= most:
            raise wrong(name, getattr(profile, name), f"lie between 0 and {most}")
    if profile.splat and not 16 <= profile.splat <= 8192:
        raise wrong("splat", profile.splat, "be 0, or lie between 16 and 8192")
    if profile.texture and profile.texture < 16:
        raise wrong("texture", profile.texture, "be 0, or 16 at the least")
    if not 0 <= profile.skirt <= 1000:
        raise wrong("skirt", profile.skirt, "lie between 0 and 1000 m")
    if profile.convex and not profile.collision:
        raise wrong("convex", profile.convex, "be 0 where there is no collision body")
    shares = profile.levels
    if (
        len(shares) > 7
        or any(not 0.0 < share < 1.0 for share in shares)
        or list(shares) != sorted(set(shares), reverse=True)
    ):
        raise wrong("levels", list(shares), "be up to 7 falling shares between 0 and 1")
    if profile.six_sides and profile.patch:
        raise wrong("six_sides", True, "be false where there are patches of a grid")
    if not (profile.patch == 0 or 0.01 <= profile.patch <= 1e6):
        raise wrong("patch", profile.patch, "be 0, or lie between 0.01 and 1000000 m")
    if not np.isfinite([profile.pixels, profile.picture, profile.field]).all() or not (
        0.01 <= profile.pixels <= 1000 and 16 <= profile.picture <= 100_000 and 1 <= profile.field <= 170
    ):
        raise wrong(
            "pixels, picture, field", (profile.pixels, profile.picture, profile.field), "be a picture and a lens"
        )
    return profile


def shipped_profiles() -> dict[str, pathlib.Path]:
    """Files of the shipped profiles, by name without ending."""
    return {file.stem: file for file in sorted(FOLDER.glob("*.json"))}


def read_profile(name: str) -> Profile:
    """A shipped profile by name, or one in a file.

    Raises
    ------
    FileProblem, InvalidInput
    """
    known = shipped_profiles()
    path = known.get(name, pathlib.Path(name))
    if not is_file(path) or path.stat().st_size > LARGEST:
        raise FileProblem(f"{name}: there is no such profile; name a file, or one of {', '.join(known)}")
    profile = typed_json(path.read_bytes(), Profile, f"{path}: is no delivery profile")
    return checked(profile, str(path))
