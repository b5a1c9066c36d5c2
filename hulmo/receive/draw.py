"""Drawing what was delivered, by the shaders that stand in the file; or, where it was baked, by its images."""

import math
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.errors import FileProblem
from hulmo.receive.glb import Drawn, Eye, Glb
from hulmo.receive.usd import UsdFile

Picture = NDArray[np.uint8]

DRAWN = {"colour": 0, "lit": 1, "normals": 2, "roughness": 3}
"""What can be drawn, as the file's shader counts it."""

BAKED_VERTEX = """#version 330 core
uniform mat4 view_projection;
uniform float metres;
in vec3 POSITION;
in vec2 TEXCOORD_0;
out vec2 uv;
void main() {
    uv = TEXCOORD_0;
    gl_Position = view_projection * vec4(POSITION * metres, 1.0);
}
"""

BAKED_FRAGMENT = """#version 330 core
uniform sampler2D base;
in vec2 uv;
out vec4 colour;
void main() {
    colour = vec4(texture(base, uv).rgb, 1.0);
}
"""


def framing(parts: list[Drawn]) -> Eye:
    """A place from where all of it is seen."""
    corners = [part.corners() for part in parts]
    low, high = np.min([low for low, _ in corners], axis=0), np.max([high for _, high in corners], axis=0)
    middle, size = (low + high) / 2, float(np.linalg.norm(high - low))
    way = np.array([0.55, 0.42, 0.72])
    return Eye("all of it", middle + way / np.linalg.norm(way) * size * 1.1, middle, 45.0)


def drawn(
    context: moderngl.Context, file: Glb | UsdFile, eye: Eye, size: tuple[int, int], what: str = "lit"
) -> tuple[Picture, Picture]:
    """(H, W, 3) the picture, and (H, W) 255 where anything is.

    Raises
    ------
    FileProblem
        Damaged, or with shaders that do not compile.
    """
    parts = file.parts()
    frame = context.framebuffer([context.texture(size, 4, dtype="f4")], context.depth_renderbuffer(size))
    frame.use()
    frame.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
    context.enable_only(moderngl.DEPTH_TEST)
    near, far = _reach(parts, eye)
    matrix = _projection(eye.field, size[0] / size[1], near, far) @ _looking(eye)
    kept: list[Any] = []
    try:
        for part in parts:
            moved = np.eye(4)
            moved[:3, 3] = part.place
            image = part.material.get("pbrMetallicRoughness", {}).get("baseColorTexture", {}).get("index")
            if file.shaders and any(name.startswith("_GROUND_") for name in part.attributes):
                program = _blending(context, file, what, kept)
            elif image is not None and "TEXCOORD_0" in part.attributes:
                program = context.program(vertex_shader=BAKED_VERTEX, fragment_shader=BAKED_FRAGMENT)
                texture = _texture(context, file.image(int(image)))
                texture.use(0)
                kept += [program, texture]
            else:
                raise FileProblem(f"{part.name}: has neither shares of grounds nor a baked image; it cannot be drawn")
            _tell(program, "view_projection", (matrix @ moved).T.astype(np.float32).tobytes())
            _tell(program, "metres", np.float32(part.metres).tobytes())
            _tell(program, "eye", (eye.place - part.place).astype(np.float32).tobytes())
            _tell(program, "metres_per_uv", np.float32(part.extras.get("metres_per_uv", 0.0)).tobytes())
            _set(program, "tinted", "_TINT" in part.attributes)
            content = [
                (context.buffer(np.ascontiguousarray(values, np.float32).tobytes()), f"{values.shape[1]}f4", name)
                for name, values in part.attributes.items()
                if isinstance(program.get(name, None), moderngl.Attribute)
            ]
            array = context.vertex_array(program, content, context.buffer(part.triangles.tobytes()))
            array.render()
            kept.append(array)
        found = np.frombuffer(frame.read(components=4, dtype="f4"), np.float32).reshape(size[1], size[0], 4)[::-1]
    except moderngl.Error as error:
        raise FileProblem(f"what stands in the file cannot be drawn ({error})") from error
    finally:
        for thing in kept:
            thing.release()
        frame.release()
    whole = np.rint(np.clip(found, 0.0, 1.0) * 255).astype(np.uint8)
    return np.ascontiguousarray(whole[..., :3]), np.ascontiguousarray(whole[..., 3])


def decibels(one: Picture, two: Picture, there: NDArray[np.bool_]) -> float:
    """Peak signal to noise ratio of two pictures where both show something: 10 log10(255 squared over the mean square)."""
    if not there.any():
        return 0.0
    square = float(np.square(one[there].astype(np.float64) - two[there].astype(np.float64)).mean())
    return 99.0 if square == 0 else 10.0 * math.log10(255.0**2 / square)


def _blending(context: moderngl.Context, file: Glb | UsdFile, what: str, kept: list[Any]) -> moderngl.Program:
    shader = file.shaders
    try:
        vertex, fragment = str(shader["vertex"]), str(shader["fragment"])
    except KeyError as error:
        raise FileProblem(f"the file's shader has no {error}") from error
    head = "#version 330 core"
    program = context.program(
        vertex_shader=vertex, fragment_shader=fragment.replace(head, f"{head}\n#define DRAWN {DRAWN[what]}", 1)
    )
    kept.append(program)
    for number, bank in enumerate(shader.get("banks", [])):
        images = [file.image(int(texture)) for texture in bank["textures"]]
        layers = [_linear(image) if bank["albedo"] else image / np.float32(255) for image in images]
        filled = [
            np.concatenate((layer, np.ones((*layer.shape[:2], 1))), axis=2).astype(np.float32) for layer in layers
        ]
        array = context.texture_array(
            (int(bank["width"]), int(bank["height"]), len(filled)), 4, b"".join(layer.tobytes() for layer in filled),
            dtype="f4",
        )  # fmt: skip
        array.repeat_x = array.repeat_y = True
        array.build_mipmaps()
        array.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
        array.use(number)
        kept.append(array)
        _set(program, f"bank_{number}", number)
    return program


def _texture(context: moderngl.Context, image: Picture) -> moderngl.Texture:
    texture = context.texture((image.shape[1], image.shape[0]), 3, image.tobytes(), alignment=1)
    texture.build_mipmaps()
    texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
    return texture


def _linear(image: Picture) -> NDArray[np.float64]:
    # IEC 61966-2-1
    values = image / 255.0
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4)


def _reach(parts: list[Drawn], eye: Eye) -> tuple[float, float]:
    far = 0.0
    for part in parts:
        corners = part.attributes["POSITION"].astype(np.float64) * part.metres + part.place
        far = max(far, float(np.linalg.norm(corners - eye.place, axis=1).max(initial=0.0)))
    return max(far * 2e-4, 1e-3), far * 1.05 + 1e-3


def _looking(eye: Eye) -> NDArray[np.float64]:
    back = eye.place - eye.target
    back = back / max(float(np.linalg.norm(back)), 1e-12)
    right = np.cross([0.0, 1.0, 0.0], back)
    right = right / np.linalg.norm(right) if np.linalg.norm(right) > 1e-9 else np.array([1.0, 0.0, 0.0])
    out = np.eye(4)
    out[0, :3], out[1, :3], out[2, :3] = right, np.cross(back, right), back
    out[:3, 3] = -out[:3, :3] @ eye.place
    return out


def _projection(field: float, ratio: float, near: float, far: float) -> NDArray[np.float64]:
    tall = 1.0 / math.tan(math.radians(field) / 2)
    out = np.zeros((4, 4))
    out[0, 0], out[1, 1] = tall / ratio, tall
    out[2, 2], out[2, 3] = (far + near) / (near - far), 2 * far * near / (near - far)
    out[3, 2] = -1.0
    return out


def _tell(program: moderngl.Program, name: str, value: bytes) -> None:
    member = program.get(name, None)
    if isinstance(member, moderngl.Uniform):
        member.write(value)


def _set(program: moderngl.Program, name: str, value: int) -> None:
    member = program.get(name, None)
    if isinstance(member, moderngl.Uniform):
        member.value = value
