"""Pictures in the RGBE format: Ward, "Real pixels" (Graphics Gems II, 1991)."""

import re

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem
from hulmo.core.image_file import FREE_PIXELS, MOST_PIXELS, PIXELS_A_BYTE
from hulmo.core.kernel import kernel

Bytes = NDArray[np.uint8]

HEAD = 65_536
"""Bytes that the text before the pixels may have."""


def read_radiance(data: bytes, where: str, side: int) -> NDArray[np.float32]:
    """(H, W, 3) linear light, first row at the top.

    Raises
    ------
    FileProblem
        No such picture, damaged, cut off, or too large.
    """
    if not data.startswith((b"#?RADIANCE", b"#?RGBE")):
        raise FileProblem(f"{where}: no RGBE picture; save it anew")
    found = re.search(rb"\n\n-Y (\d{1,6}) \+X (\d{1,6})\n", data[:HEAD])
    if found is None or b"FORMAT=32-bit_rle_xyze" in data[: found.start()]:
        raise FileProblem(f"{where}: says no size, lies on its side, or has other colours than RGB; save it anew")
    height, width = int(found[1]), int(found[2])
    pixels = height * width
    if not (0 < width <= side and 0 < height <= side and pixels <= MOST_PIXELS):
        raise FileProblem(
            f"{where}: {width:,} x {height:,} pixels; the longer side may be {side:,}; make it smaller first"
        )
    if pixels > FREE_PIXELS and pixels > PIXELS_A_BYTE * len(data):
        raise FileProblem(f"{where}: claims {width:,} x {height:,} pixels in {len(data):,} bytes; save it anew")
    out = np.zeros((height, width, 4), np.uint8)
    done = _unpack(np.frombuffer(data, np.uint8, offset=found.end()).copy(), out)
    if done < height:
        raise FileProblem(f"{where}: ends in row {done + 1:,} of {height:,}; it is cut off or damaged; save it anew")
    scale = np.where(out[..., 3] > 0, np.ldexp(1.0, out[..., 3].astype(np.int32) - 136), 0.0)
    return np.asarray((out[..., :3] + 0.5) * scale[..., None], np.float32)


@kernel("int64(uint8[::1], uint8[:,:,::1])")
def _unpack(data: Bytes, out: Bytes) -> int:
    # how many rows were whole
    height, width = int(out.shape[0]), int(out.shape[1])
    at = 0
    for row in range(height):
        packed = at + 4 <= data.size and data[at] == 2 and data[at + 1] == 2 and data[at + 2] < 128
        if packed and 8 <= width < 32768:
            if (int(data[at + 2]) << 8) + int(data[at + 3]) != width:
                return row
            at += 4
            for part in range(4):
                x = 0
                while x < width:
                    if at + 2 > data.size:
                        return row
                    count = int(data[at])
                    at += 1
                    if count > 128:  # one value many times
                        count -= 128
                        if x + count > width:
                            return row
                        for i in range(count):
                            out[row, x + i, part] = data[at]
                        at += 1
                    else:
                        if count == 0 or x + count > width or at + count > data.size:
                            return row
                        for i in range(count):
                            out[row, x + i, part] = data[at + i]
                        at += count
                    x += count
        else:
            if at + 4 * width > data.size:
                return row
            for x in range(width):
                for part in range(4):
                    out[row, x, part] = data[at + 4 * x + part]
            at += 4 * width
    return height
