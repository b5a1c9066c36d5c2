"""What of the command line delivers by profiles, and says beforehand what will go wrong."""

import argparse
import json
import pathlib
from typing import TYPE_CHECKING

import msgspec

from hulmo.core.errors import InvalidInput
from hulmo.core.progress import Progress

if TYPE_CHECKING:
    from hulmo.core.deliver.profile import Profile

USUAL = "metres-attributes"
"""The profile where none is named."""


def check(options: argparse.Namespace) -> int:
    """`hulmo check`: 1 where something fails."""
    from hulmo.core.io.project_file import open_project
    from hulmo.core.ready import findings
    from hulmo.core.ready.handover import report

    profile = _profile(options)
    project = open_project(pathlib.Path(options.file))
    found, waived = findings(project, profile, Progress())
    failing = sum(entry.fails for entry in found)
    reasons = {(entry.check, entry.body): entry.reason for entry in project.waivers}
    if options.json:
        told = report(project, profile, found, waived)
        print(json.dumps(told, ensure_ascii=False, indent=1))
        return int(failing > 0)
    for entry in found:
        print(f"{'fails' if entry.fails else 'note'}  {entry.body or 'project'}: {entry.words}. {entry.advice}.")
    for entry in waived:
        print(f"waived  {entry.body or 'project'}: {entry.words}; {reasons[entry.check, entry.body]}")
    print(f"{project.name}, for {profile.name}: {'ready' if not failing else f'{failing} to be mended'}")
    return int(failing > 0)


def deliver(options: argparse.Namespace) -> int:
    """`hulmo deliver`: files and a manifest in a folder."""
    from hulmo.core.deliver.write import deliver_to
    from hulmo.core.io.project_file import open_project
    from hulmo.core.ready.handover import hand_over

    profile = _profile(options)
    project = open_project(pathlib.Path(options.file))
    write = hand_over if options.page else deliver_to
    done = write(project, profile, pathlib.Path(options.output), Progress())
    for piece in done.pieces:
        for number, level in enumerate(piece.told):
            print(
                f"{piece.name}, level {number}: {level.triangles:,} triangles, {level.error:.4g} m off at the most"
                + (", as delivered before" if piece.kept is not None else "")
            )
    size = sum((done.folder / name).stat().st_size for name in done.files)
    print(f"{done.folder}: {len(done.files)} files, {size:,} bytes, for {profile.name}")
    return 0


def profiles(options: argparse.Namespace) -> int:
    """`hulmo profiles`: those that are shipped, or one of them as JSON."""
    from hulmo.core.deliver.profile import read_profile, shipped_profiles

    if options.name:
        profile = read_profile(options.name)
        print(msgspec.json.format(msgspec.json.encode(profile), indent=2).decode())
        return 0
    for name in shipped_profiles():
        profile = read_profile(name)
        print(f"{name}: {profile.name}. {profile.about}")
    return 0


def _profile(options: argparse.Namespace) -> "Profile":
    from hulmo.core.deliver.profile import checked, read_profile

    profile = read_profile(options.profile)
    more: dict[str, object] = {}
    if getattr(options, "levels", None):
        more["levels_by"], more["levels"] = _levels(options.levels)
    if getattr(options, "patch", None) is not None:
        more |= {"patch": options.patch, "patch_triangles": 0, "along_outlines": False, "six_sides": False}
    if more:
        more["files"] = "many"
    if getattr(options, "borders", None) is not None:
        more["borders"] = options.borders
    if getattr(options, "files", None):
        more["files"] = options.files
    return checked(msgspec.structs.replace(profile, **more), "deliver")


def _levels(text: str) -> tuple[str, tuple[float, ...]]:
    # shares of the triangles, counts of them, or metres from which on a level does
    words = [word.strip() for word in text.split(",")]
    away = all(word.endswith("m") for word in words)
    try:
        levels = tuple(float(word.removesuffix("m") if away else word) for word in words)
    except ValueError as error:
        raise InvalidInput(
            f"--levels {text}: give shares such as 0.5,0.2, counts of triangles such as 20000,5000, or distances such as "
            "40m,100m"
        ) from error
    return "distance" if away else "triangles" if min(levels) >= 1 else "share", levels


def declare_check(parser: argparse.ArgumentParser) -> None:
    """Options of `hulmo check`."""
    parser.add_argument("file")
    parser.add_argument("--profile", default=USUAL, metavar="P", help="a shipped profile, or a file")
    parser.add_argument("--json", action="store_true")


def declare_deliver(parser: argparse.ArgumentParser) -> None:
    """Options of `hulmo deliver`."""
    parser.add_argument("file")
    parser.add_argument("-o", "--output", required=True, metavar="DIR", help="folder for the files")
    parser.add_argument("--profile", default=USUAL, metavar="P", help="a shipped profile, or a file")
    parser.add_argument(
        "--levels", metavar="LEVELS",
        help="coarser levels instead of the profile's, by shares (0.5,0.2), triangles (20000,5000) or distance (40m,100m)",
    )  # fmt: skip
    parser.add_argument(
        "--files", choices=("one", "many"), help="all in one file, or one for every body, patch and level"
    )
    parser.add_argument("--patch", type=float, metavar="M", help="side of patches instead of the profile's")
    parser.add_argument("--borders", type=float, metavar="M", help="how far simplified borders of patches may lie off")
    parser.add_argument("--page", action="store_true", help="a readiness report and a web page that shows it, too")


def declare_profiles(parser: argparse.ArgumentParser) -> None:
    """Options of `hulmo profiles`."""
    parser.add_argument("name", nargs="?", default="")
