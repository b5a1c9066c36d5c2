"""Image: relief over the whole surface from a grey image."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import InvalidInput
from hulmo.core.grey_image import CHANNELS, read_grey, sample_grey
from hulmo.core.low_high import low_high
from hulmo.core.relief.relief import ALONG, Relief, Task
from hulmo.core.setting import Choice, Number, Picture, Values, number

Heights = NDArray[np.float32]

AXIS_SHIFT = ((0.37, 0.13), (0.0, 0.0), (0.71, 0.59))
"""What keeps the three axes from mirroring each other; as for grounds."""


def check(values: Values, where: str) -> None:
    """Raise a clear error when the image cannot be read."""
    read_grey(str(values["image"]), str(values["channel"]), where)


def lay(task: Task) -> NDArray[np.float32]:
    """(N, 3) offsets, metres: height times (image - flat) at each vertex; with flat at black, black 0 and white full.

    Raises
    ------
    InvalidInput
        Mapping by UV on a body without UV.
    """
    values = task.values
    grey = read_grey(str(values["image"]), str(values["channel"]))
    task.progress.step(0.1, "laying the image")
    tile = task.tile if task.tile is not None else number(values, "tile")
    by = values["mapping"]
    if by == "uv":
        uv = _vertex_uv(task)
        heights = sample_grey(grey, uv[:, 0], uv[:, 1], wrap=True)
    elif by == "above":
        heights = sample_grey(grey, task.position[:, 0] / tile, task.position[:, 2] / tile, wrap=True)
    elif by == "above_once":
        low, high = low_high(task.position)
        size = float(max(high[0] - low[0], high[2] - low[2])) or 1.0
        middle = (low + high) / 2
        u, v = ((task.position[:, axis] - middle[axis]) / size + 0.5 for axis in (0, 2))
        heights = sample_grey(grey, u, v, wrap=False)
    else:
        heights = _all_sides(task, grey, tile)
    heights = (heights - np.float32(number(values, "flat") / 100.0)) * np.float32(number(values, "height"))
    return task.along(heights)


def _vertex_uv(task: Task) -> NDArray[np.float32]:
    corners = task.corners
    if corners.uv is None:
        raise InvalidInput("image relief: this body has no UV; choose another mapping")
    live = corners.triangles[:, 0] >= 0
    uv = np.zeros((task.position.shape[0], 2), np.float32)
    uv[corners.triangles[live].reshape(-1)] = corners.uv[live].reshape(-1, 2)  # at seams the last corner counts
    return uv


def _all_sides(task: Task, grey: Heights, tile: float) -> Heights:
    share = np.square(np.square(task.normal))  # as axis_weights() for grounds, but for its trim
    share /= np.maximum(share.sum(axis=1), np.float32(1e-12))[:, None]  # a vertex of no area has no normal
    p = task.position / np.float32(tile)
    planes = ((p[:, 2], -p[:, 1]), (p[:, 0], p[:, 2]), (p[:, 0], -p[:, 1]))
    total = np.zeros(p.shape[0], np.float32)
    for axis, (u, v) in enumerate(planes):
        task.progress.step(0.2 + 0.25 * axis, "laying the image")
        shift = AXIS_SHIFT[axis]
        total += share[:, axis] * sample_grey(grey, u + np.float32(shift[0]), v + np.float32(shift[1]), wrap=True)
    return total


RELIEF = Relief(
    name="image",
    label="Image",
    help="Lays a grey image as relief: black is flat, white is full height.",
    settings=(
        Picture("image", "Image", "ripple", "A shipped image, or any PNG, TIFF or JPEG. When the file changes, so does "
                "the relief."),
        Choice("channel", "Channel", tuple((name, name.capitalize(), f"Heights from {name}.") for name in CHANNELS), "grey",
               "Which channel holds heights."),
        Number(
            "height", "Height", "m", -10_000.0, 10_000.0, 1.0, "How high full white stands above black.",
            comfort=(0.0, 20.0), curve=3.0,
        ),
        Number("flat", "Flat grey", "%", 0.0, 100.0, 0.0, "Grey that moves nothing: 0 black, 50 the middle."),
        Choice(
            "mapping",
            "Mapping",
            (
                ("sides", "By position, all sides", "Tiles on every side, as grounds do."),
                ("above", "From above, tiled", "Tiles as seen from above."),
                ("above_once", "From above, once", "One image over the whole body, as seen from above."),
                ("uv", "By UV", "By the body's texture coordinates."),
            ),
            "sides",
            "How the image lies on the surface.",
        ),
        Number(
            "tile", "Tile size", "m", 0.01, 10_000.0, 4.0, "Metres that one repeat covers.", comfort=(0.2, 50.0), curve=3.0,
            only=(("mapping", "sides"), ("mapping", "above")),
        ),
        ALONG,
    ),
    lay=lay,
    check=check,
    file="image",
)  # fmt: skip
