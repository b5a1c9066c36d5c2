"""What is delivered of every ground: its values, and an image or a plain value for each of its parts."""

from dataclasses import dataclass
from typing import Any

from hulmo.core.ground.ground import Ground
from hulmo.core.ground.library import PARTS
from hulmo.core.ground.textures import encoded_part, has_image, image_size, part_mean, plain_value
from hulmo.core.project import Project

GROUND_VALUES = (
    "tile", "tint", "turn", "brightness", "contrast", "gamma", "saturation", "normal_strength", "shading", "mapping",
    "break_up", "variation", "variation_size", "texture", "colour",
)  # fmt: skip
"""What of a ground is delivered as it is."""


@dataclass(frozen=True)
class DeliveredImage:
    """One image of a delivery.

    Attributes
    ----------
    name : str
    data : bytes
        Encoded PNG or JPEG.
    size : (int, int)
        Width and height in texels.
    albedo : bool
        Whether it holds sRGB colour; others are linear.
    """

    name: str
    data: bytes
    size: tuple[int, int]
    albedo: bool


def ground_records(project: Project, delivered: list[Ground]) -> tuple[list[DeliveredImage], list[dict[str, Any]]]:
    """Images, each once, and for every ground what `docs/blend-formula.md` lists.

    Raises
    ------
    FileProblem
        A texture cannot be read.
    """
    images: list[DeliveredImage] = []
    records: list[dict[str, Any]] = []
    seen: dict[tuple[str, str], int] = {}
    for i, ground in enumerate(delivered):
        record: dict[str, Any] = {
            "name": ground.name,
            "attribute": f"_GROUND_{i // 4}",
            "component": i % 4,
            **{key: getattr(ground, key) for key in GROUND_VALUES},
            "plain": list(ground.plain),
            "plain_roughness": ground.roughness,
            "plain_height": ground.height,
        }
        if ground.break_up:  # what the pieces of a broken-up texture are mixed about
            means = {part: part_mean(ground, part, project.textures) for part in PARTS}
            record["mean"] = {
                part: [round(value, 6) for value in values] if len(values) > 1 else round(values[0], 6)
                for part, values in means.items()
            }
        for part in PARTS:
            if not has_image(ground, part, project.textures):
                record[f"{part}_value"] = plain_value(ground, part, project.textures)
                continue
            key = (ground.texture, part)
            if key not in seen:
                seen[key] = len(images)
                images.append(_image(ground, part, project))
            record[part] = seen[key]
        records.append(record)
    return images, records


def _image(ground: Ground, part: str, project: Project) -> DeliveredImage:
    data = encoded_part(ground.texture, part, project.textures)
    assert data is not None
    size = image_size(ground, part, project.textures)
    return DeliveredImage(f"{ground.texture} {part}", data, size, part == "albedo")
