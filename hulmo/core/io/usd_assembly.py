"""One stage of Universal Scene Description that puts the files of a delivery together, with a variant for every level."""

import pathlib
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from hulmo.core.io.axes import UNITS
from hulmo.core.io.usd_prims import ROOT, usd_name
from hulmo.core.setting import Values

LEVELS = "level"
"""The variant set of every body or patch."""


@dataclass(frozen=True)
class Assembled:
    """A body or patch.

    Attributes
    ----------
    name : str
    files : sequence of str
        Beside the assembly, the finest level first.
    distances : sequence of float
        Metres from which on each level does.
    collision : sequence of str
        Files of its collision body.
    """

    name: str
    files: Sequence[str]
    distances: Sequence[float]
    collision: Sequence[str] = ()


def assembly(pieces: Sequence[Assembled], values: Values) -> bytes:
    """The stage as text. `values` are the settings that the files were written with: up, unit."""
    from pxr import Sdf  # slow to import, and needed nowhere else

    layer = Sdf.Layer.CreateAnonymous(".usda")  # in specs: the files are not looked for while they are named
    scene = _prim(layer, ROOT, "assembly")
    layer.defaultPrim = scene.name
    layer.pseudoRoot.SetInfo("upAxis", "Z" if values["up"] == "z" else "Y")
    layer.pseudoRoot.SetInfo("metersPerUnit", 1.0 / UNITS[str(values["unit"])])
    taken: set[str] = set()
    for piece in pieces:
        prim = _prim(layer, f"{ROOT}/{usd_name(piece.name, taken)}", "component")
        prim.SetInfo("displayName", piece.name)
        _levels(prim, piece)
        for file in piece.collision:
            solid = _prim(layer, f"{ROOT}/{usd_name(pathlib.PurePath(file).stem, taken)}", "component")
            purpose = Sdf.AttributeSpec(solid, "purpose", Sdf.ValueTypeNames.Token, Sdf.VariabilityUniform)
            purpose.default = "guide"
            solid.referenceList.prependedItems.append(Sdf.Reference(f"./{file}"))
    return bytes(layer.ExportToString().encode())


def _prim(layer: Any, path: str, kind: str) -> Any:
    from pxr import Sdf

    prim = Sdf.CreatePrimInLayer(layer, path)
    prim.specifier, prim.typeName, prim.kind = Sdf.SpecifierDef, "Xform", kind
    return prim


def _levels(prim: Any, piece: Assembled) -> None:
    from pxr import Sdf

    if len(piece.files) == 1:
        prim.referenceList.prependedItems.append(Sdf.Reference(f"./{piece.files[0]}"))
        return
    known = Sdf.VariantSetSpec(prim, LEVELS)
    prim.variantSetNameList.prependedItems.append(LEVELS)
    for number, (file, distance) in enumerate(zip(piece.files, piece.distances, strict=True)):
        own = Sdf.VariantSpec(known, f"{LEVELS}{number}").primSpec
        own.referenceList.prependedItems.append(Sdf.Reference(f"./{file}"))
        own.SetInfo("customData", {"hulmo": {"from": float(distance)}})
    prim.variantSelections[LEVELS] = f"{LEVELS}0"
