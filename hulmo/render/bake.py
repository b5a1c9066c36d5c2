"""Images of what lies on a body, by its texture coordinates."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hulmo.core.bake.cage import SHARE
from hulmo.core.bake.in_tangents import in_tangents
from hulmo.core.bake.maps import MAPS
from hulmo.core.bake.surface import Surface, SurfaceAt
from hulmo.core.colour import srgb_to_linear
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.weights import weights_of
from hulmo.core.kernel import kernel
from hulmo.core.memory import available_bytes
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.corner_table import UV
from hulmo.core.mesh.curvature import curvature
from hulmo.core.mesh.rays import Rays
from hulmo.core.mesh.shelter import shelter
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.props.contact import Contact
from hulmo.core.props.tray import tray_of
from hulmo.core.uv.figures import FLAT
from hulmo.core.uv.pack import signed_areas
from hulmo.core.uv.tangent import tangents
from hulmo.core.uv.texels import Texels, texels_of, with_margin
from hulmo.core.workers import by_pieces
from hulmo.render.context import headless_context
from hulmo.render.ground_shader import GroundShader
from hulmo.render.looks import KEY

Image = NDArray[np.float32]

SMALLEST, LARGEST, MOST_SAMPLES, MOST_RAYS = 16, 8192, 4, 4096

REACHED = 2

AT_ONCE = 1 << 19
"""Places that are looked at at a time."""


@dataclass(frozen=True)
class Baked:
    """Images, and what became of their texels.

    Attributes
    ----------
    images : dict
        By name: (H, W) or (H, W, C) float32; several names for one map where it has several images.
    reached, filled : int
        Texels that the surface reaches, and those of them that have a value.
    mirrored, twice : int
        Triangles that lie mirrored in the image; texels whose middle several triangles cover.
    missed : int
        Places that no ray found the fine body from; they show its nearest place.
    state : (H, W) uint8
        0 nothing, 1 margin, 2 the surface.
    """

    images: dict[str, Image]
    reached: int
    filled: int
    mirrored: int
    twice: int
    missed: int = 0
    state: NDArray[np.uint8] = field(default_factory=lambda: np.zeros((0, 0), np.uint8))


def together(baked: list[Baked]) -> Baked:
    """Images of several bodies, whose charts lie apart, in one; texels that several of them reach count as `twice`."""
    out = {name: values.copy() for name, values in baked[0].images.items()}
    state, clash = baked[0].state.copy(), 0
    for other in baked[1:]:
        clash += int(((state == REACHED) & (other.state == REACHED)).sum())
        taken = other.state > state
        for name, values in other.images.items():
            out[name][taken] = values[taken]
        state[taken] = other.state[taken]
    reached, filled = int((state == REACHED).sum()), sum(part.filled for part in baked) - clash
    twice = sum(part.twice for part in baked) + clash
    return Baked(
        out, reached, filled, sum(part.mirrored for part in baked), twice, sum(part.missed for part in baked), state
    )


def bake(
    project: Project, body: Body, maps: Iterable[str], size: int, progress: Progress, samples: int = 1, margin: int = 16,
    column: str = "uv", fine: Body | None = None, reach: float = 0.0, rays: int = 64,
) -> Baked:  # fmt: skip
    """Bake images of a body.

    It makes an OpenGL context of its own the current one; whoever has another has to make that current again.

    Parameters
    ----------
    maps : iterable of str
        Names of `hulmo.core.bake.maps.MAPS`.
    size : int
        Texels a side, 16 to 8192.
    samples : int
        Along each side of a texel, 1 to 4.
    margin : int
        Texels around what the surface reaches that are filled as well.
    column : str
        Corner column of the texture coordinates.
    fine : Body, optional
        Another body, whose surface is baked onto this one: along its normals, from `reach` outside to `reach` inside.
    reach : float
        Metres; 0: a twentieth of the body's size.
    rays : int
        For occlusion, 1 to 4096.

    Raises
    ------
    InvalidInput
        No UV, nothing of it within 0 to 1, an unknown map, a size that needs more memory than there is.
    FileProblem
        A texture of the palette cannot be read.
    """
    wanted = _checked(body, list(maps), size, samples, margin, column)
    source = _source(project, body, fine, reach, rays, wanted)
    slots = np.flatnonzero(body.corners.triangles[:, 0] >= 0).astype(np.int32)
    uv = body.corners.slots[column]
    at = uv[slots].astype(np.float64)
    weights_of(body, len(project.grounds))
    progress.step(0.02, "laying triangles into the image")
    wide = size * samples
    texels = texels_of(at, (wide, wide), slots, counts=True)
    if not texels.reached:
        raise InvalidInput(f"{body.name!r}: none of its UV lies from 0 to 1; pack it, or move it there")
    by_uv = any(ground.mapping == "uv" for ground in project.grounds) and UV in source.body.corners.slots
    surface = SurfaceAt(body, uv, (wide, wide), by_uv and source.surface is None)
    out: dict[str, Image] = {}
    shader = None
    context = None
    try:
        if any(MAPS[name].shaded for name in wanted):
            context = headless_context()
            shader = GroundShader(context, project, TINT in source.body.vertices, by_uv)
        own = _Makers(project, body, uv, surface, shader, wanted, source, progress)
        total = np.zeros((size * size, own.width), np.float32)
        hits = np.zeros(size * size, np.float32)
        for done, (place, triangle, weight) in enumerate(_portions(texels, samples)):
            progress.step(0.05 + 0.85 * min(done * AT_ONCE / texels.reached, 1.0), "baking")
            values = own.make(triangle, weight)
            if samples == 1:
                total[place], hits[place] = values, 1.0
            else:
                hits += np.bincount(place, minlength=size * size).astype(np.float32)
                for k in range(own.width):
                    total[:, k] += np.bincount(place, values[:, k], size * size)
        progress.step(0.92, "filling margins")
        there = hits > 0
        if samples > 1:
            total /= np.maximum(hits, 1.0)[:, None]
        taken = with_margin(np.where(there, 0, -1).astype(np.int32).reshape(size, size), margin)
        filled = taken >= 0
        around = np.flatnonzero(filled & ~there)
        total[around] = total[taken[around]]
        for name, columns in own.columns.items():
            image = own.finished(name, total[:, columns]).reshape(size, size, -1)
            image[~filled.reshape(size, size)] = own.empty(name)
            out[name] = image[..., 0] if image.shape[2] == 1 else image
    finally:
        if shader is not None:
            shader.release()
        if context is not None:
            context.release()
    assert texels.counts is not None
    flat = signed_areas(at)
    reached = (texels.triangle >= 0).reshape(size, samples, size, samples).any(axis=(1, 3))
    state = filled.reshape(size, size).astype(np.uint8) + reached
    return Baked(
        out, int(reached.sum()), int((reached & there.reshape(size, size)).sum()),
        int((flat < -FLAT).sum()), int((texels.counts > 1).sum()), own.missed, state,
    )  # fmt: skip


class _Makers:
    # makes the values of all wanted maps at places, side by side in columns

    def __init__(
        self,
        project: Project,
        body: Body,
        uv: Image,
        surface: SurfaceAt,
        shader: GroundShader | None,
        wanted: list[str],
        source: "_Source",
        progress: Progress,
    ) -> None:
        self._project, self._body, self._surface, self._shader = project, body, surface, shader
        self._wanted, self._source = wanted, source
        self.missed = 0
        self.columns: dict[str, slice] = {}
        self.width = 0
        grounds = len(project.grounds)
        for name in wanted:
            if name == "weights":
                for first in range(0, grounds, 4):
                    self._column(f"weights_{first // 4 + 1}", 4)
            else:
                self._column(name, MAPS[name].channels)
        self._tangents: Image | None = None
        if "normal" in wanted:
            self._tangents = _tangents(body, uv)
        self._curve: Image | None = None
        if "curvature" in wanted:
            of = source.body
            rows = np.flatnonzero(of.corners.first_corner >= 0).astype(np.int32)
            self._curve = np.zeros((of.vertices.count, 1), np.float32)
            self._curve[rows, 0] = curvature(of.vertices["position"], of.vertices["normal"], of.corners, rows)[0]
        self._shelter: Image | None = None
        if "shelter" in wanted:
            self._shelter = shelter(source.body, source.reach or 0.25 * source.far, progress)[:, None]
        self._contact: Contact | None = None
        if "contact" in wanted:
            self._contact = Contact(source.body, tray_of(project.props, project.prop_meshes))

    def _column(self, name: str, width: int) -> None:
        self.columns[name] = slice(self.width, self.width + width)
        self.width += width

    def make(self, triangle: NDArray[np.int32], weight: Image) -> Image:
        """(K, width) values at K places."""
        body, wanted = self._source.body, self._wanted
        base_at = here = self._surface.at(triangle, weight)
        slot, share, height = triangle, weight, np.zeros(triangle.size, np.float32)
        if self._source.surface is not None:
            slot, share, height, lost = self._met(base_at)
            self.missed += lost.size
            if "missed" in wanted:
                gone = np.zeros((triangle.size, 1), np.float32)
                gone[lost] = 1.0
            here = replace(self._source.surface.at(slot, share), dx=base_at.dx, dy=base_at.dy)
            if here.along is not None:  # how fine its coordinates are sampled is told by the texels of the coarse body
                here.along[:, 2:] = 0.0
                here.along[:, 2] = np.linalg.norm(base_at.dx, axis=1)
                here.along[:, 5] = np.linalg.norm(base_at.dy, axis=1)
        out = np.zeros((triangle.size, self.width), np.float32)
        if self._shader is not None:
            base, rough, normal = self._shader.shade(here)
            for name, values in (("base_colour", base), ("roughness", rough[:, None]), ("normal_object", normal)):
                if name in wanted:
                    out[:, self.columns[name]] = values
            if "normal" in wanted:
                out[:, self.columns["normal"]] = self._in_tangents(base_at, normal, triangle, weight)
        for first in range(0, here.weight.shape[1], 4):
            columns = self.columns.get(f"weights_{first // 4 + 1}")
            if columns is not None:
                part = here.weight[:, first : first + 4]
                out[:, columns.start : columns.start + part.shape[1]] = part
        if "dominant" in wanted:
            key = srgb_to_linear(np.array(KEY)).astype(np.float32)
            out[:, self.columns["dominant"]] = key[here.weight.argmax(axis=1)]
        if "tint" in wanted and here.tint is not None:
            out[:, self.columns["tint"]] = here.tint
        if "slope" in wanted:
            up = np.broadcast_to(body.up(here.position.astype(np.float64)), here.position.shape)
            cosine = np.clip((here.normal * up).sum(axis=1), -1.0, 1.0)
            out[:, self.columns["slope"]] = (np.arccos(cosine) / np.pi)[:, None]
        if "position" in wanted:
            out[:, self.columns["position"]] = body.placed(here.position.astype(np.float64))
        if self._curve is not None:
            surface = self._source.surface or self._surface
            out[:, self.columns["curvature"]] = surface.mixed(self._curve, slot, share)
        if self._shelter is not None:
            surface = self._source.surface or self._surface
            out[:, self.columns["shelter"]] = surface.mixed(self._shelter, slot, share)
        if self._contact is not None:
            out[:, self.columns["contact"]] = self._contact.at(here.position)[:, None]
        if "missed" in wanted and self._source.surface is not None:
            out[:, self.columns["missed"]] = gone
        if "height" in wanted:
            out[:, self.columns["height"]] = height[:, None]
        if "occlusion" in wanted:
            place, way = here.position.astype(np.float64), here.normal.astype(np.float64)
            found = self._source.sent.openness(place, way, self._source.rays, self._source.far)
            out[:, self.columns["occlusion"]] = found[:, None]
        return out

    def _met(self, here: Surface) -> tuple[NDArray[np.int32], Image, Image, NDArray[np.intp]]:
        # where rays along the normals of the coarse body meet the fine one, how high above, and which of them miss it
        source = self._source
        way = here.normal.astype(np.float64)
        place = source.body.own(self._body.placed(here.position.astype(np.float64)))
        slot, share, away = source.sent.first_hits(place + way * source.reach, -way, 2.0 * source.reach)
        height = np.float32(source.reach) - away
        lost = np.flatnonzero(slot < 0)
        if lost.size:
            corners, position = source.body.corners, source.body.vertices["position"]
            near, weight = source.body.index.nearest_many(corners.vertex, position, place[lost].astype(np.float32))
            slot[lost], share[lost], height[lost] = near, weight[:, 1:], 0.0
        return slot, share, height, lost

    def _in_tangents(self, here: Surface, normal: Image, triangle: NDArray[np.int32], weight: Image) -> Image:
        assert self._tangents is not None
        return in_tangents(here.normal, normal, self._tangents, triangle, weight)

    def finished(self, name: str, values: Image) -> Image:
        """Values as images hold them: normals from 0 to 1, shares that sum to 1."""
        if name in ("normal", "normal_object"):
            out = np.empty(values.shape, np.float32)
            by_pieces(lambda rows: _coded(values[rows], out[rows]), len(values), AT_ONCE)
            return out
        return np.ascontiguousarray(values)

    def empty(self, name: str) -> float | tuple[float, ...]:
        """What stands where nothing is."""
        return {"normal": (0.5, 0.5, 1.0), "normal_object": (0.5, 0.5, 0.5)}.get(name, 0.0)


@kernel("void(float32[:,:], float32[:,::1])")
def _coded(normal: Image, out: Image) -> None:
    # unit vectors as colours from 0 to 1
    for i in range(normal.shape[0]):
        length = np.sqrt(normal[i, 0] ** 2 + normal[i, 1] ** 2 + normal[i, 2] ** 2)
        scale = np.float32(0.5) / max(length, np.float32(1e-6))
        for k in range(3):
            out[i, k] = normal[i, k] * scale + np.float32(0.5)


@dataclass(frozen=True)
class _Source:
    # whose surface is baked; with `surface`, onto another body
    body: Body
    surface: SurfaceAt | None
    reach: float
    rays: int
    far: float

    @cached_property
    def sent(self) -> Rays:
        """Sends rays at the body."""
        return Rays(self.body)


def _source(project: Project, body: Body, fine: Body | None, reach: float, rays: int, wanted: list[str]) -> _Source:
    if not 1 <= rays <= MOST_RAYS:
        raise InvalidInput(f"bake: {rays} rays; there can be 1 to {MOST_RAYS}")
    if not 0.0 <= reach <= 1e6:
        raise InvalidInput(f"bake: reach is {reach:g} m; it must lie between 0 and 1000000")
    size = float(np.linalg.norm(np.diff(body.index.bounds, axis=0)))
    if fine is None or fine is body:
        fine_only = [name for name in ("height", "missed") if name in wanted]
        if fine_only:
            raise InvalidInput(f"bake: {fine_only[0]} is that of a fine body over this one; name the fine body")
        return _Source(body, None, reach, rays, size)
    weights_of(fine, len(project.grounds))
    uv = np.zeros((fine.corners.count, 3, 2), np.float32)  # footprints are those of the coarse body
    by_uv = any(ground.mapping == "uv" for ground in project.grounds)
    return _Source(fine, SurfaceAt(fine, uv, (1, 1), by_uv), reach or SHARE * size, rays, size)


def _tangents(body: Body, uv: Image) -> Image:
    corners = body.corners
    triangles = np.maximum(corners.triangles, 0)
    place = body.vertices["position"][triangles].astype(np.float64)
    normal = body.vertices["normal"][triangles].astype(np.float64)
    normal /= np.maximum(np.linalg.norm(normal, axis=2, keepdims=True), 1e-12)
    return tangents(place, normal, uv.astype(np.float64), triangles.astype(np.int32)).astype(np.float32)


def _portions(
    texels: Texels, samples: int
) -> Iterator[tuple[NDArray[np.intp], NDArray[np.int32], NDArray[np.float32]]]:
    # texels of the image, and the places that their samples show
    flat = texels.triangle.reshape(-1)
    there = np.flatnonzero(flat >= 0)
    wide = texels.triangle.shape[1]
    weight = texels.weight.reshape(-1, 2)
    for begin in range(0, there.size, AT_ONCE):
        at = there[begin : begin + AT_ONCE]
        row, column = at // wide // samples, at % wide // samples
        yield row * (wide // samples) + column, flat[at], weight[at]


def _checked(body: Body, maps: list[str], size: int, samples: int, margin: int, column: str) -> list[str]:
    unknown = [name for name in maps if name not in MAPS]
    if unknown or not maps:
        raise InvalidInput(f"bake: {', '.join(unknown) or 'nothing'} cannot be baked; known are {', '.join(MAPS)}")
    if not SMALLEST <= size <= LARGEST:
        raise InvalidInput(f"bake: size is {size}; it must lie between {SMALLEST} and {LARGEST} texels")
    if not 1 <= samples <= MOST_SAMPLES or size * samples > 2 * LARGEST:
        raise InvalidInput(
            f"bake: {samples} samples a side; there can be 1 to {MOST_SAMPLES}, and {2 * LARGEST} in a line"
        )
    if not 0 <= margin <= size:
        raise InvalidInput(f"bake: margin is {margin}; it must lie between 0 and {size}")
    if column not in body.corners.slots:
        raise InvalidInput(f"bake: {body.name!r} has no UV; lay it or unwrap the body first")
    channels = sum(MAPS[name].channels for name in maps)
    needed = size * size * (4 * 2 * channels + 12) + (size * samples) ** 2 * 20
    room = available_bytes()
    if room is not None and needed > room:
        raise InvalidInput(
            f"bake: {size} texels a side need about {needed / 1e9:.1f} GB for these images; choose fewer, or a smaller size"
        )
    return list(dict.fromkeys(maps))
