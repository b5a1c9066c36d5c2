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

WITH_LEVELS = ("glb", "gltf")
"""Formats whose files can hold the levels of a body."""

LEVELS_BY = {
    "share": (0.0, 1.0, "falling shares between 0 and 1"),
    "triangles": (3.0, 1e10, "falling whole numbers of triangles, 4 at the least"),
    "distance": (0.0, 1e7, "rising distances in metres"),
}
"""What levels can be chosen by: between which numbers, and in words."""


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
        one: all bodies in one file, in glTF with their levels (MSFT_lod). many: a file for each body, patch and level.
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
        Coarser levels; none for the full bodies alone. What the numbers are, `levels_by` says.
    levels_by : str
        share: falling shares of the triangles. triangles: falling counts, of a whole body. distance: rising metres, from
        each of which on a level is to do, with an error of no more than `pixels`.
    patch : float
        Metres of a patch's side; 0: bodies stay whole.
    volume : bool
        Whether patches are cubes.
    patch_triangles : int
        Instead of a side: triangles that patches of a grid have in the mean; 0: none.
    along_outlines : bool
        Whether what each outline on a body encloses is a patch, and what lies outside all of them another one.
    six_sides : bool
        Whether bodies are cut into the six sides of a ball about their middle, as suits moons, and not along a grid.
    borders : float
        Metres that borders of patches may lie off: they are simplified once, for all levels and from both sides; 0: they
        stay as they are.
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
    levels_by: str = "share"
    patch: float = 0.0
    volume: bool = False
    patch_triangles: int = 0
    along_outlines: bool = False
    six_sides: bool = False
    borders: float = 0.0
    skirt: float = 0.0
    collision: int = 0
    convex: int = 0
    pixels: float = 1.0
    picture: float = 1080.0
    field: float = 50.0

    @property
    def cuts(self) -> bool:
        """Whether bodies are cut into patches."""
        return self.six_sides or self.along_outlines or self.patch > 0 or self.patch_triangles > 0


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
    together = profile.format in WITH_LEVELS
    if profile.files == "one" and (profile.cuts or profile.collision or (profile.levels and not together)):
        raise wrong(
            "files", "one",
            "be many where there are patches or collision bodies, or levels of another format than glTF: readers show all "
            "of a file",
        )  # fmt: skip
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
    if not 0 <= profile.borders <= 1000:
        raise wrong("borders", profile.borders, "lie between 0 and 1000 m")
    if not 0 <= profile.skirt <= 1000:
        raise wrong("skirt", profile.skirt, "lie between 0 and 1000 m")
    if profile.convex and not profile.collision:
        raise wrong("convex", profile.convex, "be 0 where there is no collision body")
    if profile.levels_by not in LEVELS_BY:
        raise wrong("levels_by", profile.levels_by, f"be one of {', '.join(LEVELS_BY)}")
    levels, (low, high, what) = list(profile.levels), LEVELS_BY[profile.levels_by]
    ordered = sorted(set(levels), reverse=profile.levels_by != "distance")
    whole = profile.levels_by != "triangles" or all(float(level).is_integer() for level in levels)
    if len(levels) > 7 or levels != ordered or not whole or any(not low < level < high for level in levels):
        raise wrong("levels", levels, f"be up to 7 {what}")
    if sum((profile.six_sides, profile.along_outlines, profile.patch > 0, profile.patch_triangles > 0)) > 1:
        name = "six_sides" if profile.six_sides else "along_outlines" if profile.along_outlines else "patch_triangles"
        raise wrong(
            name, getattr(profile, name), "be left out where bodies are cut another way: there is one at a time"
        )
    if profile.patch_triangles and not 100 <= profile.patch_triangles <= 100_000_000:
        raise wrong("patch_triangles", profile.patch_triangles, "be 0, or lie between 100 and 100000000")
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
