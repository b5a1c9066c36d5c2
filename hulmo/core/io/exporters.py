"""Every exchange format there is. To add one: write its file, add one line here."""

import pathlib

from hulmo.core.errors import InvalidInput
from hulmo.core.io import glb, gltf, materialx, obj, ply, stl, usd
from hulmo.core.io.exporter import Exporter

EXPORTERS: dict[str, Exporter] = {
    exporter.ending: exporter
    for exporter in (
        glb.EXPORTER,
        gltf.EXPORTER,
        *usd.EXPORTERS,
        materialx.EXPORTER,
        ply.EXPORTER,
        obj.EXPORTER,
        stl.EXPORTER,
    )
}


def exporter_for(path: pathlib.Path) -> Exporter:
    """The exporter a file name asks for.

    Raises
    ------
    InvalidInput
        The name ends in nothing that can be written.
    """
    ending = path.suffix.lower().lstrip(".")
    if ending not in EXPORTERS:
        known = ", ".join(f".{name}" for name in EXPORTERS)
        raise InvalidInput(
            f"{path}: cannot export to {path.suffix or 'a name without ending'!r}; choose one of {known}"
        )
    return EXPORTERS[ending]
