"""Opening image files of which nothing is known: no more pixels than can be, and one kind of error."""

import contextlib
import io
import pathlib
from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from hulmo.core.errors import FileProblem, HulmoError

Image.MAX_IMAGE_PIXELS = None  # the limits below are stricter, and say what to do

MOST_PIXELS = 1 << 26
"""Pixels of one image: 8192 x 8192."""

FREE_PIXELS = 1 << 22
"""Pixels that any image may have; larger ones must bring some bytes for them."""

PIXELS_A_BYTE = 500
"""Pixels that one byte of a file can stand for: more are made by files that only claim a size."""


@contextlib.contextmanager
def opened_image(source: pathlib.Path | bytes, kinds: tuple[str, ...], where: str, side: int) -> Iterator[Image.Image]:
    """An image, its size checked, its pixels not yet decoded; everything that goes wrong inside is one kind of error.

    Parameters
    ----------
    source : Path or bytes
        A file, or the encoded image itself.
    kinds : tuple of str
        Formats that are tried, as Pillow names them.
    where : str
        Begins every message.
    side : int
        Pixels of the longer side at the most.

    Raises
    ------
    FileProblem
        Gone, damaged, of another format, or too large.
    """
    try:
        data = source if isinstance(source, bytes) else None
        size = len(data) if data is not None else pathlib.Path(str(source)).stat().st_size
        with Image.open(io.BytesIO(data) if data is not None else source, formats=kinds) as image:
            width, height = image.size
            pixels = width * height
            if max(width, height) > side or pixels > MOST_PIXELS:
                raise FileProblem(
                    f"{where}: {width:,} x {height:,} pixels; the longer side may be {side:,}, and all of it "
                    f"{MOST_PIXELS:,} pixels; make it smaller first"
                )
            if pixels > FREE_PIXELS and pixels > PIXELS_A_BYTE * size:
                raise FileProblem(
                    f"{where}: claims {width:,} x {height:,} pixels in {size:,} bytes; make it smaller, or use a plain value"
                )
            yield image
    except (HulmoError, MemoryError):
        raise
    except OSError as error:
        raise FileProblem(f"{where}: cannot be read as an image ({error.strerror or error}); save it anew") from error
    except Exception as error:  # Pillow's plug-ins raise all kinds for damaged files
        raise FileProblem(f"{where}: no image that can be read, or damaged ({error}); save it anew") from error


def grey_values(image: Image.Image) -> NDArray[np.float32] | None:
    """(H, W) values of an image of one channel and more than 8 bits: 0 black, 1 white, floats as they are; None of others."""
    if image.mode == "F":
        return np.array(image, np.float32)
    if not image.mode.startswith("I"):
        return None
    values = np.asarray(image)
    bits, kind = 16, 1
    if image.mode == "I" and image.format == "TIFF":
        tags = image.tag_v2  # type: ignore[attr-defined]
        bits, kind = int(tags.get(258, (32,))[0]), int(tags.get(339, (1,))[0])
    if bits == 32 and kind == 1:  # Pillow has the bits of unsigned numbers as signed ones
        values = values.view(np.uint32)
    white = 2.0 ** (bits if kind == 1 else bits - 1) - 1.0
    return np.asarray(np.clip(values / white, 0.0, 1.0), np.float32)


def deep_colours(source: pathlib.Path, image: Image.Image) -> NDArray[np.uint16] | None:
    """(H, W, 3 or 4) values of a PNG or TIFF with 16 bits a colour, which Pillow would cut to 8; None of others."""
    if image.format == "PNG" and image.mode in ("RGB", "RGBA"):
        with source.open("rb") as file:
            head = file.read(26)
        if len(head) == 26 and head[24] == 16 and head[25] in (2, 6):
            import png  # needed for such images only

            with source.open("rb") as file:
                width, height, rows, info = png.Reader(file=file).read()
                out = np.empty((height, width * info["planes"]), np.uint16)
                for i, row in enumerate(rows):
                    out[i] = row
            return out.reshape(height, width, info["planes"])
    if image.format == "TIFF" and tuple(image.tag_v2.get(258, ()))[:3] == (16, 16, 16):  # type: ignore[attr-defined]
        import tifffile  # slow to import, and needed nowhere else

        with contextlib.suppress(Exception):  # packed in a way it does not know: 8 bits are better than nothing
            values = tifffile.imread(source)
            if values.dtype == np.uint16 and values.ndim == 3 and values.shape[2] in (3, 4):
                return np.asarray(values)
    return None
