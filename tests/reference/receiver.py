"""A receiver of deliveries that shares no code with Hulmo: written from the glTF 2.0 specification (Khronos, ISO/IEC
12113:2022) and docs/blend-formula.md alone. It draws a GLB twice: with the shaders that stand in the file, and in NumPy."""

import io
import json
import math
import struct
from dataclasses import dataclass
from typing import Any

import moderngl
import numpy as np
from PIL import Image

KINDS = {5121: np.uint8, 5123: np.uint16, 5125: np.uint32, 5126: np.float32}
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}
SHIFT = np.array([[0.37, 0.13], [0.0, 0.0], [0.71, 0.59]])

GATHER_VERTEX = """#version 330 core
uniform mat4 m; in vec3 p; in vec3 n; in vec2 t; in float row;
out vec3 fp; out vec3 fn; out vec2 ft;
void main() { fp = p; fn = n; ft = t; gl_Position = m * vec4(p, 1.0); }"""
GATHER_FRAGMENT = """#version 330 core
in vec3 fp; in vec3 fn; in vec2 ft;
layout(location = 0) out vec4 a; layout(location = 1) out vec4 b; layout(location = 2) out vec4 c;
layout(location = 3) out vec4 d; layout(location = 4) out vec4 e;
void main() {
    vec3 n = normalize(fn);
    a = vec4(fp, 1.0); b = vec4(gl_FrontFacing ? n : -n, 0.0);
    c = vec4(dFdx(fp), dFdx(ft).x); d = vec4(dFdy(fp), dFdx(ft).y); e = vec4(ft, dFdy(ft));
}"""
WEIGHT_VERTEX = """#version 330 core
uniform mat4 m; in vec3 p; in vec4 w; out vec4 f;
void main() { f = w; gl_Position = m * vec4(p, 1.0); }"""
WEIGHT_FRAGMENT = """#version 330 core
in vec4 f; out vec4 a;
void main() { a = f; }"""


class Delivered:
    """The content of a GLB."""

    def __init__(self, data: bytes) -> None:
        magic, version, length = struct.unpack("<4sII", data[:12])
        assert (magic, version, length) == (b"glTF", 2, len(data))
        size = struct.unpack("<I", data[12:16])[0]
        self.document = json.loads(data[20 : 20 + size])
        self._blob = data[28 + size :]
        self.hulmo = self.document["extras"]["hulmo"]

    def view(self, index: int) -> bytes:
        view = self.document["bufferViews"][index]
        start = view.get("byteOffset", 0)
        return self._blob[start : start + view["byteLength"]]

    def array(self, index: int) -> np.ndarray:
        accessor = self.document["accessors"][index]
        values = np.frombuffer(self.view(accessor["bufferView"]), KINDS[accessor["componentType"]])
        values = values[: accessor["count"] * WIDTHS[accessor["type"]]].reshape(accessor["count"], -1)
        full = np.iinfo(values.dtype).max if accessor.get("normalized") else 1
        return values / np.float64(full) if accessor.get("normalized") else values

    def image(self, texture: int) -> np.ndarray:
        """(H, W, 3) or (H, W), 0 to 1 as stored."""
        entry = self.document["images"][self.document["textures"][texture]["source"]]
        picture = Image.open(io.BytesIO(self.view(entry["bufferView"])))
        return np.asarray(picture if picture.mode == "L" else picture.convert("RGB"), np.float64) / 255.0

    def parts(self) -> list[tuple[dict[str, Any], np.ndarray, dict[str, np.ndarray], np.ndarray]]:
        """Primitive, place of its node, attributes and triangles of every node."""
        out = []
        for node in self.document["nodes"]:
            mesh = self.document["meshes"][node["mesh"]] if "mesh" in node else {"extras": {"hulmo_prop": 0}}
            if not {"hulmo_prop", "hulmo_water"}.isdisjoint(mesh.get("extras", {})):
                continue  # no ground
            primitive = mesh["primitives"][0]
            named = {name: self.array(index) for name, index in primitive["attributes"].items()}
            place = np.array(node.get("translation", (0.0, 0.0, 0.0)))
            out.append((primitive, place, named, self.array(primitive["indices"]).astype(np.uint32)))
        return out


@dataclass(frozen=True)
class View:
    """Where a picture is taken from: eye (metres), and the (4, 4) matrix from metres to the screen."""

    eye: np.ndarray
    matrix: np.ndarray

    def beside(self, place: np.ndarray) -> "View":
        """The same from the space of a node that stands somewhere."""
        moved = np.eye(4)
        moved[:3, 3] = place
        return View(self.eye - place, self.matrix @ moved)


def to_linear(values: np.ndarray) -> np.ndarray:
    """sRGB 0 to 1 to linear light (IEC 61966-2-1)."""
    return np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4)


def to_srgb(values: np.ndarray) -> np.ndarray:
    """Linear light to sRGB, 0 to 1."""
    values = np.clip(values, 0.0, 1.0)
    return np.where(values <= 0.0031308, values * 12.92, 1.055 * values ** (1 / 2.4) - 0.055)


def colour_of(text: str) -> np.ndarray:
    """#rrggbb in linear light."""
    return to_linear(np.array([int(text[i : i + 2], 16) for i in (1, 3, 5)]) / 255.0)


class ShaderReceiver:
    """Draws with the shaders of the file."""

    def __init__(self, context: moderngl.Context, delivered: Delivered) -> None:
        self._context, self._delivered = context, delivered
        self._banks = []
        for bank in delivered.hulmo["shader"].get("banks", []):
            layers = []
            for texture in bank["textures"]:
                image = delivered.image(texture)
                image = image if image.ndim == 3 else np.repeat(image[:, :, None], 3, axis=2)
                image = to_linear(image) if bank["albedo"] else image
                layers.append(
                    np.concatenate((image, np.ones((*image.shape[:2], 1))), axis=2).astype(np.float32).tobytes()
                )
            array = context.texture_array((bank["width"], bank["height"], len(layers)), 4, b"".join(layers), dtype="f4")
            array.repeat_x = array.repeat_y = True
            array.build_mipmaps()
            array.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
            self._banks.append(array)

    def draw(self, view: View, size: tuple[int, int], drawn: int) -> np.ndarray:
        """(H, W, 4) picture, 0 to 1, and 1 where anything is."""
        context, shader = self._context, self._delivered.hulmo["shader"]
        program = context.program(
            vertex_shader=shader["vertex"],
            fragment_shader=shader["fragment"].replace(
                "#version 330 core", f"#version 330 core\n#define DRAWN {drawn}"
            ),
        )
        frame = context.framebuffer([context.texture(size, 4, dtype="f4")], context.depth_renderbuffer(size))
        frame.use()
        frame.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        context.enable_only(moderngl.DEPTH_TEST)
        for number, array in enumerate(self._banks):
            array.use(number)
            if f"bank_{number}" in program:
                program[f"bank_{number}"] = number
        for primitive, place, named, triangles in self._delivered.parts():
            here = view.beside(place)
            _tell(program, "view_projection", here.matrix.T.astype(np.float32).tobytes())
            _tell(program, "eye", here.eye.astype(np.float32).tobytes())
            _tell(program, "metres_per_uv", np.float32(primitive.get("extras", {}).get("metres_per_uv", 0.0)).tobytes())
            if "tinted" in program:
                program["tinted"].value = "_TINT" in named
            content = [
                (context.buffer(values.astype(np.float32).tobytes()), f"{values.shape[1]}f4", name)
                for name, values in named.items()
                if isinstance(program.get(name, None), moderngl.Attribute)
            ]
            context.vertex_array(program, content, context.buffer(triangles.tobytes())).render()
        return np.frombuffer(frame.read(components=4, dtype="f4"), np.float32).reshape(size[1], size[0], 4)[::-1]


class HandReceiver:
    """Draws in NumPy: a graphics card only says which point of which triangle lies under a pixel."""

    def __init__(self, context: moderngl.Context, delivered: Delivered) -> None:
        self._context, self._delivered = context, delivered
        self._levels: dict[tuple[int, bool], list[np.ndarray]] = {}

    def draw(self, view: View, size: tuple[int, int], drawn: int) -> np.ndarray:
        """(H, W, 4) picture, 0 to 1, and 1 where anything is."""
        out = np.zeros((size[1] * size[0], 4))
        nearest = np.full(size[1] * size[0], np.inf)
        for primitive, place, named, triangles in self._delivered.parts():
            here = view.beside(place)
            seen = self._gathered(named, triangles, here.matrix, size)
            away = np.linalg.norm(seen["position"] - here.eye, axis=1)
            mine = (seen["there"] > 0.5) & (away < nearest)
            nearest[mine] = away[mine]
            at = {name: values[mine] for name, values in seen.items()}
            at["metres_per_uv"] = float(primitive.get("extras", {}).get("metres_per_uv", 0.0))
            out[mine, :3] = self._colours(at, here.eye, drawn)
            out[mine, 3] = 1.0
        return out.reshape(size[1], size[0], 4)[::-1]

    def _gathered(
        self, named: dict[str, np.ndarray], triangles: np.ndarray, matrix: np.ndarray, size: tuple[int, int]
    ) -> dict[str, Any]:
        context = self._context
        index = context.buffer(triangles.tobytes())
        place = context.buffer(named["POSITION"].astype(np.float32).tobytes())

        def run(vertex: str, fragment: str, outs: int, content: list[tuple[str, np.ndarray]]) -> list[np.ndarray]:
            program = context.program(vertex_shader=vertex, fragment_shader=fragment)
            program["m"].write(matrix.T.astype(np.float32).tobytes())
            frame = context.framebuffer(
                [context.texture(size, 4, dtype="f4") for _ in range(outs)], context.depth_renderbuffer(size)
            )
            frame.use()
            frame.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
            context.enable_only(moderngl.DEPTH_TEST)
            inputs = [(place, "3f4", "p")] + [
                (context.buffer(values.astype(np.float32).tobytes()), f"{values.shape[1]}f4", name)
                for name, values in content
                if isinstance(program.get(name, None), moderngl.Attribute)
            ]
            context.vertex_array(program, inputs, index).render()
            return [
                np.frombuffer(frame.read(components=4, attachment=i, dtype="f4"), np.float32)
                .reshape(-1, 4)
                .astype(float)
                for i in range(outs)
            ]

        uv = named.get("TEXCOORD_0", np.zeros((named["POSITION"].shape[0], 2)))
        a, b, c, d, e = run(GATHER_VERTEX, GATHER_FRAGMENT, 5, [("n", named["NORMAL"]), ("t", uv)])
        weights = [
            run(WEIGHT_VERTEX, WEIGHT_FRAGMENT, 1, [("w", named[f"_GROUND_{group}"])])[0]
            for group in range(4)
            if f"_GROUND_{group}" in named
        ]
        tint = (
            run(WEIGHT_VERTEX, WEIGHT_FRAGMENT, 1, [("w", named["_TINT"])])[0] if "_TINT" in named else np.zeros_like(a)
        )
        return {
            "position": a[:, :3], "there": a[:, 3], "normal": b[:, :3], "dx": c[:, :3], "dy": d[:, :3], "uv": e[:, :2],
            "uv_dx": np.stack((c[:, 3], d[:, 3]), 1), "uv_dy": e[:, 2:], "weight": np.concatenate(weights, 1), "tint": tint,
        }  # fmt: skip

    def _colours(self, at: dict[str, Any], eye: np.ndarray, drawn: int) -> np.ndarray:
        hulmo = self._delivered.hulmo
        grounds = hulmo["grounds"]
        n = at["normal"]
        axes = trimmed(np.abs(n) ** 4)
        heights, colours = [], []
        for ground in grounds:
            texel = self._mapped(at, axes, lambda *given, g=ground: self._surface(g, *given), ground)
            heights.append(texel[:, 3])
            colour = adjusted(texel[:, :3] * colour_of(ground["tint"]), ground)
            if ground["variation"] > 0:
                colour = colour * varied(at["position"], ground["variation_size"], ground["variation"])[:, None]
            colours.append(colour)
        weight = at["weight"][:, : len(grounds)]
        share = weight
        if hulmo["blend"]["mode"] == "height":
            score = weight * (0.1 + 0.9 * np.stack(heights, 1))
            kept = np.maximum(score - score.max(axis=1, keepdims=True) * (1 - max(hulmo["blend"]["depth"], 0.01)), 0.0)
            share = kept / np.maximum(kept.sum(axis=1, keepdims=True), 1e-6)
        base = sum(share[:, [k]] * colours[k] for k in range(len(grounds)))
        base = base * (1.0 - at["tint"][:, 3:] + at["tint"][:, :3])
        if drawn == 0:
            return to_srgb(base)
        flat = sum(share[:, k] * (ground["shading"] == "flat") for k, ground in enumerate(grounds))
        face = unit(np.cross(at["dx"], at["dy"]))
        face = np.where((face * n).sum(1, keepdims=True) < 0, -face, face)
        plain = unit(n + (face - n) * np.asarray(flat)[:, None])
        push, rough = np.zeros_like(n), np.zeros(n.shape[0])
        for k, ground in enumerate(grounds):
            found = self._mapped(at, axes, lambda *given, g=ground: self._detail(g, *given), ground, at, share[:, k])
            push += found[:, :3]
            rough += found[:, 3] * share[:, k]
        bent, rough = unit(plain + push), np.clip(rough, 0.05, 1.0)
        if drawn == 2:
            return bent * 0.5 + 0.5
        if drawn == 3:
            return np.repeat(rough[:, None], 3, axis=1)
        light = (
            lit(unit(eye - at["position"]), plain, bent, base, rough, hulmo["light"])
            * 2.0 ** hulmo["light"]["exposure"]
        )
        return to_srgb(light * (2.51 * light + 0.03) / (light * (2.43 * light + 0.59) + 0.14))

    def _mapped(self, at, axes, look, ground, push=None, share=None):  # type: ignore[no-untyped-def]
        # what `look` finds along the three axes, or by UV; with `push`, slants become pushes
        turn, tile = math.radians(ground["turn"]), ground["tile"]
        turned = np.array([[math.cos(turn), -math.sin(turn)], [math.sin(turn), math.cos(turn)]]).T
        strength = ground["normal_strength"]
        if ground["mapping"] == "uv" and at["metres_per_uv"] > 0:
            scale = at["metres_per_uv"]
            place, dx, dy = (at[name] * scale for name in ("uv", "uv_dx", "uv_dy"))
            found = look(place @ turned / tile, dx @ turned / tile, dy @ turned / tile)
            if push is None:
                return found
            slant = (found[:, :2] * 2 - 1) @ turned * (share * strength)[:, None]
            across, along = np.cross(at["dy"], at["normal"]), np.cross(at["normal"], at["dx"])
            u, v = (across * dx[:, [i]] + along * dy[:, [i]] for i in range(2))
            size = 1 / np.sqrt(np.maximum(np.maximum((u * u).sum(1), (v * v).sum(1)), 1e-20))
            return np.column_stack(((u * slant[:, :1] - v * slant[:, 1:]) * size[:, None], found[:, 2]))
        total = np.zeros((at["position"].shape[0], 4))
        for axis in range(3):
            place, dx, dy = (_plane(at[name], axis) @ turned / tile for name in ("position", "dx", "dy"))
            found = look(place + SHIFT[axis], dx, dy)
            if push is not None:
                slant = (found[:, :2] * 2 - 1) @ turned * (share * strength)[:, None]
                x, y, none = slant[:, 0], slant[:, 1], np.zeros(slant.shape[0])
                way = ((none, y, x), (x, none, -y), (x, y, none))[axis]
                found = np.column_stack((*way, found[:, 2]))
            total += axes[:, [axis]] * found
        return total

    def _surface(self, ground: dict[str, Any], place: np.ndarray, dx: np.ndarray, dy: np.ndarray) -> np.ndarray:
        mean = ground.get("mean", {})
        albedo = np.tile(colour_of(ground.get("albedo_value", "#000000")), (place.shape[0], 1))
        height = np.full((place.shape[0], 1), ground.get("height_value", 0.0))
        if "albedo" in ground:
            albedo = self._texel(ground, ground["albedo"], True, place, dx, dy, mean.get("albedo"))
        if "height" in ground:
            height = self._texel(ground, ground["height"], False, place, dx, dy, mean.get("height"))[:, :1]
        return np.concatenate((albedo, height), axis=1)

    def _detail(self, ground: dict[str, Any], place: np.ndarray, dx: np.ndarray, dy: np.ndarray) -> np.ndarray:
        mean = ground.get("mean", {})
        slant = np.full((place.shape[0], 2), 0.5)
        rough = np.full((place.shape[0], 1), ground.get("roughness_value", 0.0))
        if "normal" in ground:
            middle = [*mean["normal"], 0.5] if mean else None
            slant = self._texel(ground, ground["normal"], False, place, dx, dy, middle)[:, :2]
        if "roughness" in ground:
            rough = self._texel(ground, ground["roughness"], False, place, dx, dy, mean.get("roughness"))[:, :1]
        return np.concatenate((slant, rough), axis=1)

    def _texel(self, ground, texture, albedo, place, dx, dy, mean):  # type: ignore[no-untyped-def]
        levels = self._mips(texture, albedo)
        size = np.array([levels[0].shape[1], levels[0].shape[0]])
        most = np.maximum(((dx * size) ** 2).sum(1), ((dy * size) ** 2).sum(1))
        level = np.maximum(0.5 * np.log2(np.maximum(most, 1e-12)), 0.0)
        if not ground["break_up"]:
            return trilinear(levels, place, level)
        weight, shift = pieces(place)
        parts = np.stack([trilinear(levels, place + shift[:, i], level) for i in range(3)], axis=1)
        away = (weight[:, :, None] * (parts - np.array(mean))).sum(1)
        return np.clip(np.array(mean) + away / np.sqrt((weight**2).sum(1))[:, None], 0.0, 1.0)

    def _mips(self, texture: int, albedo: bool) -> list[np.ndarray]:
        if (texture, albedo) not in self._levels:
            image = self._delivered.image(texture)
            image = image if image.ndim == 3 else np.repeat(image[:, :, None], 3, axis=2)
            self._levels[texture, albedo] = box_levels(to_linear(image) if albedo else image)
        return self._levels[texture, albedo]


def box_levels(image: np.ndarray) -> list[np.ndarray]:
    """All levels of an image whose sides are powers of two: means of 2 x 2."""
    levels = [image]
    while max(levels[-1].shape[:2]) > 1:
        last = levels[-1]
        height, width = last.shape[:2]
        blocks = last.reshape(max(height // 2, 1), min(height, 2), max(width // 2, 1), min(width, 2), -1)
        levels.append(blocks.mean(axis=(1, 3)))
    return levels


def trilinear(levels: list[np.ndarray], place: np.ndarray, level: np.ndarray) -> np.ndarray:
    """(K, C) of (K, 2) places, between the two nearest levels."""
    level = np.minimum(level, len(levels) - 1)
    low = np.floor(level).astype(int)
    out = np.zeros((place.shape[0], levels[0].shape[2]))
    for number in np.unique(low):
        rows = np.flatnonzero(low == number)
        part = (level[rows] - number)[:, None]
        upper = levels[min(number + 1, len(levels) - 1)]
        out[rows] = bilinear(levels[number], place[rows]) * (1 - part) + bilinear(upper, place[rows]) * part
    return out


def bilinear(image: np.ndarray, place: np.ndarray) -> np.ndarray:
    """(K, C) of (K, 2) places of an image that repeats."""
    height, width = image.shape[:2]
    x, y = place[:, 0] * width - 0.5, place[:, 1] * height - 0.5
    left, top = np.floor(x).astype(np.int64), np.floor(y).astype(np.int64)
    fx, fy = (x - left)[:, None], (y - top)[:, None]

    def at(i: np.ndarray, j: np.ndarray) -> np.ndarray:
        return np.asarray(image[j % height, i % width])

    upper = at(left, top) * (1 - fx) + at(left + 1, top) * fx
    return np.asarray(upper * (1 - fy) + (at(left, top + 1) * (1 - fx) + at(left + 1, top + 1) * fx) * fy)


def trimmed(shares: np.ndarray) -> np.ndarray:
    """Shares that sum to 1, without what has less than a fiftieth."""
    kept = np.maximum(shares / shares.sum(axis=1, keepdims=True) - 0.02, 0.0)
    return np.asarray(kept / kept.sum(axis=1, keepdims=True))


def adjusted(colour: np.ndarray, ground: dict[str, Any]) -> np.ndarray:
    """Brightness, contrast about 0.18, gamma, saturation about BT.709 luminance."""
    out = np.maximum((colour * ground["brightness"] - 0.18) * ground["contrast"] + 0.18, 0.0) ** (1 / ground["gamma"])
    grey = (out * [0.2126, 0.7152, 0.0722]).sum(1, keepdims=True)
    return np.maximum(grey + (out - grey) * ground["saturation"], 0.0)


def hashed(x: np.ndarray, y: np.ndarray, z: np.ndarray) -> list[np.ndarray]:
    """pcg3d (Jarzynski and Olano, 2020) in 64-bit arithmetic, cut to 32 bits."""
    full = np.uint64(0xFFFFFFFF)
    v = [(part.astype(np.int64).astype(np.uint64) & full) * np.uint64(1664525) + np.uint64(1013904223) & full
         for part in (x, y, z)]  # fmt: skip
    for turn in range(2):
        v[0] = v[0] + v[1] * v[2] & full
        v[1] = v[1] + v[2] * v[0] & full
        v[2] = v[2] + v[0] * v[1] & full
        if turn == 0:
            v = [part ^ part >> np.uint64(16) for part in v]
    return v


def varied(place: np.ndarray, size: float, strength: float) -> np.ndarray:
    """Value noise in cells of `size` metres, 1 - strength to 1 + strength."""
    at = place.astype(np.float32) / np.float32(size)  # cells change where single precision says so
    cell = np.floor(at).astype(np.int64)
    t = (at - cell).astype(np.float64)
    t = t * t * (3 - 2 * t)
    total = np.zeros(place.shape[0])
    for corner in range(8):
        step = np.array([corner & 1, corner >> 1 & 1, corner >> 2 & 1])
        value = hashed(*(cell + step).T)[0] / 4294967295.0
        total += value * np.prod(np.where(step == 1, t, 1 - t), axis=1)
    return 1 + strength * (2 * total - 1)


def pieces(place: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Weights and shifts of the three pieces at texture coordinates."""
    place = place.astype(np.float32)
    at = np.float32(2) * np.stack(
        (place[:, 0] - np.float32(0.57735027) * place[:, 1], np.float32(1.15470054) * place[:, 1]), 1
    )
    cell = np.floor(at).astype(np.int64)
    t = (at - cell).astype(np.float64)
    third = 1 - t[:, 0] - t[:, 1]
    low = (third > 0)[:, None]
    weight = np.where(
        low, np.column_stack((third, t[:, 1], t[:, 0])), np.column_stack((-third, 1 - t[:, 1], 1 - t[:, 0]))
    )
    steps = np.where(low[:, :, None], [[[0, 0], [0, 1], [1, 0]]], [[[1, 1], [1, 0], [0, 1]]])
    corner = cell[:, None] + steps
    found = hashed(corner[:, :, 0].ravel(), corner[:, :, 1].ravel(), np.zeros(corner[:, :, 0].size))
    shift = np.stack([part.reshape(-1, 3) / 4294967296.0 for part in found[:2]], axis=2)
    return trimmed(weight), shift


def unit(vectors: np.ndarray) -> np.ndarray:
    """Rows of length 1."""
    return np.asarray(vectors / np.maximum(np.linalg.norm(vectors, axis=1, keepdims=True), 1e-30))


def lit(v, plain, n, albedo, rough, light):  # type: ignore[no-untyped-def]
    """Lambert and GGX (Walter et al. 2007) under sun and sky, as the page says."""
    toward, sun, sky_light = (np.array(light[name]) for name in ("toward_sun", "sun", "sky"))

    def sky(way: np.ndarray) -> np.ndarray:
        up = way[:, 1:2] * 0.5 + 0.5
        return np.asarray(sky_light * (np.array([0.20, 0.185, 0.16]) * (1 - up) + np.array([0.50, 0.58, 0.70]) * up))

    nl, nv = np.maximum(n @ toward, 0.0), np.maximum((n * v).sum(1), 1e-3)
    bounced = 2 * (n * v).sum(1, keepdims=True) * n - v
    f = (1 - nv) ** 5
    out = albedo * sky(n) + sky(bounced) * ((0.04 + 0.96 * f * (1 - rough)) * (1 - rough) * 0.6)[:, None]
    h = unit(v + toward)
    nh, a2 = np.maximum((n * h).sum(1), 0.0), np.maximum(rough * rough, 0.02) ** 2
    lobe = a2 / (math.pi * (nh * nh * (a2 - 1) + 1) ** 2)
    with np.errstate(divide="ignore", invalid="ignore"):
        seen = 0.5 / (nl * np.sqrt(nv * nv * (1 - a2) + a2) + nv * np.sqrt(nl * nl * (1 - a2) + a2))
    fresnel = 0.04 + 0.96 * (1 - np.maximum((v * h).sum(1), 0.0)) ** 5
    direct = sun * nl[:, None] * (albedo / math.pi * (1 - fresnel)[:, None] + (lobe * seen * fresnel)[:, None])
    return out + np.where(((nl > 0) & (plain @ toward > -0.2))[:, None], direct, 0.0)


def decibels(one: np.ndarray, two: np.ndarray, there: np.ndarray) -> float:
    """Peak signal to noise of two pictures of whole 255ths, where both show anything."""
    square = np.square(one[there].astype(float) - two[there].astype(float)).mean()
    return 99.0 if square == 0 else float(10 * np.log10(255.0**2 / square))


def _plane(p: np.ndarray, axis: int) -> np.ndarray:
    return np.asarray((p[:, (2, 1)], p[:, (0, 2)], p[:, (0, 1)])[axis] * ((1, -1), (1, 1), (1, -1))[axis])


def _tell(program: moderngl.Program, name: str, value: bytes) -> None:
    if name in program:
        program[name].write(value)
