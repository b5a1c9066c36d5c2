"""Baked images as files."""

import io
import pathlib

import numpy as np
import png
from numpy.typing import NDArray
from PIL import Image

from hulmo.core.bake.maps import BakedMap
from hulmo.core.colour import linear_to_srgb
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.quantise import quantise
from hulmo.core.io.exr import write_exr
from hulmo.core.io.safe_write import safe_write
from hulmo.core.workers import by_pieces

KINDS = ("png", "tiff", "exr")
BITS = (8, 16)

LEVEL = 4
"""Of deflate (RFC 1951, by zlib): above it images of ground get no smaller to speak of, and take twice as long."""

ROWS = 64
"""Rows that are made whole numbers at a time."""

Values = NDArray[np.float32]


def write_map(path: pathlib.Path, values: Values, what: BakedMap, bits: int = 8) -> None:
    """Write an image; its ending says as what.

    Parameters
    ----------
    path : Path
        .png, .tiff or .exr.
    values : (H, W) or (H, W, C) float32
        0 to 1; colours in linear light.
    what : BakedMap
    bits : int
        8 or 16 of PNG and TIFF; EXR and figures have 32 and floats.

    Raises
    ------
    InvalidInput
        No such kind, or figures that go into EXR and TIFF only.
    FileProblem
        It cannot be written; an older file of the name is as it was.
    """
    kind = path.suffix.lower().removeprefix(".")
    if kind not in KINDS or bits not in BITS:
        raise InvalidInput(f"{path}: images are written as {', '.join(KINDS)}, with 8 or 16 bits")
    if what.figures and kind == "png":
        raise InvalidInput(f"{path}: {what.label.lower()} may lie beyond 0 to 1; write it as exr or tiff")
    if kind == "exr":
        planes = values if values.ndim == 3 else values[..., None]
        names = {1: "Y", 3: "RGB", 4: "RGBA"}[planes.shape[2]]
        write_exr(path, {name: planes[..., i].astype(np.float32) for i, name in enumerate(names)})
        return
    if what.figures:
        import tifffile

        buffer = io.BytesIO()
        tifffile.imwrite(buffer, values.astype(np.float32), photometric="rgb" if values.ndim == 3 else "minisblack")
        _write(path, buffer.getvalue())
        return
    whole = _whole(values, what, bits)
    _write(path, _png(whole, bits) if kind == "png" else _tiff(whole, bits))


def _whole(values: Values, what: BakedMap, bits: int) -> NDArray[np.uint16]:
    full = (1 << bits) - 1
    out = np.empty(values.shape, np.uint16)

    def some(rows: slice) -> None:
        within = np.clip(values[rows], 0.0, 1.0).astype(np.float64)
        out[rows] = np.rint((linear_to_srgb(within) if what.coloured else within) * full)

    by_pieces(some, values.shape[0], ROWS)
    return out


def exact_shares(images: list[Values], bits: int) -> list[Values]:
    """Shares of several (H, W, 4) images rounded so that all of a texel, written with so many bits, sum to exactly 1."""
    full = (1 << bits) - 1
    every = np.concatenate(images, axis=2)
    flat = every.reshape(-1, every.shape[2])
    whole = quantise(np.ascontiguousarray(flat, np.float32), full)[:, : flat.shape[1]]
    whole[flat.sum(axis=1) <= 0] = 0
    shares = (whole / np.float32(full)).reshape(every.shape)
    return [np.ascontiguousarray(shares[..., 4 * i : 4 * i + 4], np.float32) for i in range(len(images))]


def _png(whole: NDArray[np.uint16], bits: int) -> bytes:
    buffer = io.BytesIO()
    planes = 1 if whole.ndim == 2 else whole.shape[2]
    if bits == 8:
        Image.fromarray(whole.astype(np.uint8)).save(buffer, "PNG", compress_level=LEVEL)
    else:
        writer = png.Writer(
            whole.shape[1], whole.shape[0], greyscale=planes < 3, alpha=planes == 4, bitdepth=16, compression=6
        )
        writer.write(buffer, whole.reshape(whole.shape[0], -1).tolist())
    return buffer.getvalue()


def _tiff(whole: NDArray[np.uint16], bits: int) -> bytes:
    import tifffile

    buffer = io.BytesIO()
    kind = "minisblack" if whole.ndim == 2 else "rgb"
    extra = ["unassalpha"] if whole.ndim == 3 and whole.shape[2] == 4 else None
    tifffile.imwrite(buffer, whole.astype(np.uint8 if bits == 8 else np.uint16), photometric=kind, extrasamples=extra)
    return buffer.getvalue()


def _write(path: pathlib.Path, data: bytes) -> None:
    with safe_write(path) as file:
        file.write(data)
