"""Shares of grounds as images of four grounds each, for targets that blend by images."""

import io
from typing import Any

import numpy as np
from PIL import Image

from hulmo.core.ground.painted_values import ground_values
from hulmo.core.ground.quantise import quantise
from hulmo.core.ground.sheet import box_of, sheet_of
from hulmo.core.mesh.body import Body
from hulmo.core.uv.sets import uv_column

FULL = 255


def splat_images(body: Body, stem: str, grounds: int, size: int) -> tuple[dict[str, bytes], dict[str, Any]]:
    """PNG files by name, and what a receiver must know of them: by UV where the body has any, or else from above.

    Red, green, blue and alpha of image k are grounds 4 k to 4 k + 3; over all images a texel sums to 255.
    """
    from scipy.ndimage import distance_transform_edt  # see `mesh.graph`

    column = uv_column("", "splat")
    by = "uv" if body.corners.slots.get(column) is not None else "above"
    image, crowded = sheet_of(body, by, column).written(ground_values(body, grounds, FULL), size)
    bare = ~image.any(axis=2)
    if bare.any() and not bare.all():  # so that no filter draws in what lies beside a chart
        near = distance_transform_edt(bare, return_distances=False, return_indices=True)
        image = image[near[0], near[1]]
    flat = image.reshape(-1, image.shape[2])
    some = np.flatnonzero(flat.sum(axis=1) != FULL)
    flat[some] = quantise(flat[some].astype(np.float32), FULL)[:, : flat.shape[1]]
    groups = -(-grounds // 4)
    packed = np.zeros((*image.shape[:2], 4 * groups), np.uint8)
    packed[..., : image.shape[2]] = image
    files = {}
    for group in range(groups):
        buffer = io.BytesIO()
        Image.fromarray(np.ascontiguousarray(packed[..., 4 * group : 4 * group + 4])).save(buffer, "PNG")
        files[f"{stem}.shares{group}.png"] = buffer.getvalue()
    told: dict[str, Any] = {"files": list(files), "by": by, "vertices_sharing_a_texel": crowded}
    if by == "above":
        told["box"] = [round(value, 6) for value in box_of(body)]
    return files, told
