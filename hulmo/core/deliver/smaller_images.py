"""Images of grounds brought within what a target can take."""

import copy
import io

import msgspec
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from hulmo.core.colour import linear_to_srgb
from hulmo.core.ground.ground import Ground
from hulmo.core.ground.library import PARTS, shipped
from hulmo.core.ground.resample import resized
from hulmo.core.ground.textures import encoded_part, has_image, image_size, linear_albedo, part_pixels
from hulmo.core.project import Project, free_name


def with_smaller_images(project: Project, most: int) -> Project:
    """The project, or where a ground has an image with a longer side than so many texels, a copy of it whose images are not
    larger: means of what a texel covers, of colours in linear light, of normals as vectors.

    Raises
    ------
    FileProblem
        A texture cannot be read.
    """
    if not most:
        return project
    grounds = list(project.grounds)
    textures = {name: dict(parts) for name, parts in project.textures.items()}
    smaller: dict[str, str] = {}
    for column, ground in enumerate(grounds):
        parts = [part for part in PARTS if has_image(ground, part, project.textures)]
        large = [part for part in parts if max(image_size(ground, part, project.textures)) > most]
        if not large:
            continue
        if ground.texture not in smaller:
            smaller[ground.texture] = free_name(f"{ground.texture} {most}", [*textures, *shipped()])
        name = smaller[ground.texture]
        known = textures.setdefault(name, {})
        for part in parts:
            if part not in known:
                data = encoded_part(ground.texture, part, project.textures)
                assert data is not None
                known[part] = _smaller(ground, part, project, most) if part in large else data
        grounds[column] = msgspec.structs.replace(ground, texture=name)
    if grounds == list(project.grounds):
        return project
    out = copy.copy(project)
    out.grounds, out.textures = tuple(grounds), textures
    return out


def _smaller(ground: Ground, part: str, project: Project, most: int) -> bytes:
    pixels = part_pixels(ground, part, project.textures)
    height, width = pixels.shape[:2]
    share = most / max(width, height)
    size = max(1, int(width * share)), max(1, int(height * share))

    def channels(values: NDArray[np.floating]) -> NDArray[np.float32]:
        layers = [resized(np.ascontiguousarray(values[..., k], np.float32), size) for k in range(values.shape[2])]
        return np.stack(layers, axis=2)

    out: NDArray[np.floating]
    if part == "albedo":
        out = linear_to_srgb(np.clip(channels(linear_albedo(pixels)), 0, 1))
    elif part == "normal":
        way = channels(pixels / 127.5 - 1.0)
        way /= np.maximum(np.linalg.norm(way, axis=2, keepdims=True), 1e-6)
        out = way / 2 + 0.5
    else:
        out = channels(pixels[..., None] / 255.0)[..., 0]
    buffer = io.BytesIO()
    Image.fromarray(np.rint(255 * np.clip(out, 0, 1)).astype(np.uint8)).save(buffer, "PNG")
    return buffer.getvalue()
