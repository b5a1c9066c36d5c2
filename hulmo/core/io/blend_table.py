"""What every value of a delivery means: printed in `docs/blend-formula.md`, and written into the file."""

from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """One value: its key in the file, and what it is, in which unit or colour space, how exactly."""

    key: str
    meaning: str


LOOKUPS = {
    "wrap": "repeat",
    "magnification": "linear",
    "minification": "linear, between the two nearest levels by level_of()",
    "levels": "means of 2 x 2 texels of the level below, albedo in linear light",
    "anisotropy": 1,
    "origin": "upper left",
}
"""How images are looked up."""

TABLE = (
    Row("POSITION", "attribute: metres about the node's translation; in 16 bits (KHR_mesh_quantization) whole steps, which "
        "the node's scale says in metres, and METRES in the shader"),
    Row("_GROUND_k", "attribute: weights of grounds 4 k to 4 k + 3, 16 bits, sum 65535; interpolated over the triangle"),
    Row("_TINT", "attribute, where there is tint: colour times cover (linear light), cover; 32-bit floats"),
    Row("COLOR_0", "attribute: mean of the adjusted colour of the grounds, by weight, times tint; linear light, 16 bits; or "
        "weights, see vertex_colour: four in each of COLOR_0, COLOR_1, ..."),
    Row("TEXCOORD_k", "attribute, where it was asked for: from k = 1 on weights of grounds 2 k - 2 and 2 k - 1, 16 bits"),
    Row("metres_per_uv", "extras of a primitive with UV of its own: metres that a unit of UV covers; without it every ground "
        "is mapped by position, whatever its mapping says"),
    Row("grounds[].attribute, component", "where the weight of the ground stands"),
    Row("grounds[].albedo, normal, roughness, height", "index of a texture of the file: 8 bits a channel; albedo sRGB, the "
        "others linear; normal +Y up; roughness and height grey (of an image with colours: 0.299 R + 0.587 G + 0.114 B)"),
    Row("grounds[].albedo_value", "instead of albedo: #rrggbb, sRGB"),
    Row("grounds[].normal_value", "instead of normal: flat, no slant at all"),
    Row("grounds[].roughness_value, height_value", "instead of roughness, height: 0 to 1, linear, whole 255ths"),
    Row("grounds[].mean", "of a ground with break_up, 0 to 1: albedo (linear light), x and y of normal, roughness, height"),
    Row("grounds[].tile", "metres of one repeat"),
    Row("grounds[].turn", "degrees, counter-clockwise as one looks at the surface"),
    Row("grounds[].tint", "#rrggbb, sRGB; multiplied in linear light"),
    Row("grounds[].brightness, contrast, gamma, saturation", "of adjusted(), in linear light; 1 changes nothing"),
    Row("grounds[].variation, variation_size", "of varied(): share, and metres; 0 for none"),
    Row("grounds[].normal_strength", "factor on the slants of the normal map"),
    Row("grounds[].shading", "smooth, or flat: by the normal of the triangle"),
    Row("grounds[].mapping", "position or uv"),
    Row("grounds[].break_up", "whether images are looked up in pieces()"),
    Row("blend.mode, depth", "height with its depth, or linear: depth 0"),
    Row("light.toward_sun", "unit vector in the scene"),
    Row("light.sun, sky", "linear red, green, blue"),
    Row("light.sky_parts", "where the sky is a picture: nine colours; set sky_parts to them, and sky_parts_on to 1"),
    Row("light.exposure", "stops: light times two to its power before toned()"),
    Row("shader.vertex, fragment", "complete GLSL 3.30; DRAWN is 0 colour, 1 lit, 2 normals, 3 roughness"),
    Row(
        "shader.banks",
        "images by texture array: sampler bank_i holds textures as layers, sRGB where albedo; left out where all is plain",
    ),
)  # fmt: skip
