"""Images of many named channels, as OpenEXR files."""

import pathlib
import shutil
import tempfile
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem
from hulmo.core.image_file import FREE_PIXELS, MOST_PIXELS, PIXELS_A_BYTE
from hulmo.core.io.safe_write import safe_write

Channel = NDArray[np.floating] | NDArray[np.uint32]


def write_exr(path: pathlib.Path, channels: Mapping[str, Channel], told: str = "") -> None:
    """Write an image.

    Parameters
    ----------
    path : Path
    channels : mapping
        Name to (H, W) values, float16, float32 or uint32, first row at the top; all of one size.
    told : str
        Kept in the header as a comment.

    Raises
    ------
    FileProblem
        It cannot be written; an older file of the name is as it was.
    """
    import OpenEXR

    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    if told:
        header["comments"] = told
    with tempfile.TemporaryDirectory() as folder:
        made = pathlib.Path(folder) / "made.exr"
        try:
            with OpenEXR.File(header, {name: np.ascontiguousarray(part) for name, part in channels.items()}) as file:
                file.write(str(made))
        except RuntimeError as error:
            raise FileProblem(f"{path}: not written ({error}); free some space for temporary files") from error
        with safe_write(path) as out, made.open("rb") as source:
            shutil.copyfileobj(source, out)


def read_exr(path: pathlib.Path, where: str, side: int) -> dict[str, Channel]:
    """Channels of an image by name, as they lie in its first part.

    Parameters
    ----------
    where : str
        Begins every message.
    side : int
        Pixels of the longer side at the most.

    Raises
    ------
    FileProblem
        Gone, damaged, or too large.
    """
    import OpenEXR

    try:
        size = path.stat().st_size
        with OpenEXR.File(str(path), header_only=True) as file:
            low, high = file.header()["dataWindow"]
            width, height = (int(high[k]) - int(low[k]) + 1 for k in range(2))
        pixels = width * height
        if not (0 < width <= side and 0 < height <= side and pixels <= MOST_PIXELS):
            raise FileProblem(
                f"{where}: {width:,} x {height:,} pixels; the longer side may be {side:,}; make it smaller first"
            )
        if pixels > FREE_PIXELS and pixels > PIXELS_A_BYTE * size:
            raise FileProblem(f"{where}: claims {width:,} x {height:,} pixels in {size:,} bytes; save it anew")
        with OpenEXR.File(str(path), separate_channels=True) as file:
            found = {name: np.array(channel.pixels) for name, channel in file.channels().items()}
    except FileProblem:
        raise
    except OSError as error:
        raise FileProblem(f"{where}: cannot be read ({error.strerror or error}); choose another file") from error
    except Exception as error:  # the library raises several kinds for damaged files
        raise FileProblem(f"{where}: no EXR image that can be read, or damaged ({error}); save it anew") from error
    if any(part.shape != (height, width) for part in found.values()):
        raise FileProblem(f"{where}: its channels are of different sizes; save it anew")
    return found
