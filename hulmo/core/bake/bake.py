"""Images of what lies on a body, by its texture coordinates."""

from collections import deque
from collections.abc import Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from hulmo.core.bake.cage import SHARE
from hulmo.core.bake.in_tangents import in_tangents
from hulmo.core.bake.maps import MAPS
from hulmo.core.bake.surface import Surface, SurfaceAt
from hulmo.core.colour import srgb_to_linear
from hulmo.core.errors import InvalidInput
from hulmo.core.ground.key import KEY
from hulmo.core.ground.shade import GroundShade
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
from hulmo.core.workers import WORKERS, by_pieces

Image = NDArray[np.float32]

SMALLEST, LARGEST, MOST_SAMPLES, MOST_RAYS = 16, 8192, 4, 4096

REACHED = 2

BLOCK = 64
"""Texels across a block of places that are looked at one after the other."""

AT_ONCE, RAYS_AT_ONCE = 1 << 18, 1 << 20
"""Places that are looked at, and rays that are sent, between two looks at whether it is to be stopped."""

AHEAD = 2
"""So many such portions are worked on at once."""


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
    assert texels.counts is not None
    if not texels.reached:
        raise InvalidInput(f"{body.name!r}: none of its UV lies from 0 to 1; pack it, or move it there")
    by_uv = any(ground.mapping == "uv" for ground in project.grounds) and UV in source.body.corners.slots
    surface = SurfaceAt(body, uv, (wide, wide), by_uv and source.surface is None)
    shade = (
        GroundShade(project.grounds, project.textures, project.blend)
        if any(MAPS[name].shaded for name in wanted)
        else None
    )
    own = _Makers(project, body, uv, surface, shade, wanted, source, progress)
    out = {name: np.zeros((size * size, width), np.float32) for name, width in own.widths.items()}
    there = np.zeros(size * size, np.bool_)
    hits = np.zeros(size * size if samples > 1 else 0, np.float32)
    at_once = min(AT_ONCE, RAYS_AT_ONCE // rays) if "occlusion" in wanted else AT_ONCE

    def lay(place: NDArray[np.intp], made: Future[list[tuple[str, Image]]]) -> None:
        there[place] = True
        low, high = (int(place.min()), int(place.max()) + 1) if samples > 1 else (0, 0)
        if samples > 1:
            hits[low:high] += np.bincount(place - low)
        for name, values in made.result():
            if samples == 1:
                _laid(place, values, out[name])
                continue
            for k in range(values.shape[1]):
                out[name][low:high, k] += np.bincount(place - low, values[:, k])

    waiting: deque[tuple[NDArray[np.intp], Future[list[tuple[str, Image]]]]] = deque()
    with ThreadPoolExecutor(AHEAD) as pool:  # what is found, and what is laid, while others are made; in this order
        for begin, place, triangle, share in _portions(texels, samples, at_once):
            progress.step(0.05 + 0.85 * begin / wide, "baking")
            waiting.append((place, pool.submit(lambda *at: list(own.make(*at)), triangle, share)))
            if len(waiting) > AHEAD:
                lay(*waiting.popleft())
        while waiting:
            lay(*waiting.popleft())
    progress.step(0.92, "filling margins")
    touched = texels.triangle >= 0
    twice = int((texels.counts > 1).sum())
    del texels
    taken = with_margin(there.reshape(size, size), margin)
    filled = taken >= 0
    around = np.flatnonzero(filled & ~there)
    for name, image in out.items():
        if samples > 1:
            image /= np.maximum(hits, 1.0)[:, None]
        _laid(around, image[taken[around]], image)
        own.finish(name, image, filled)
        out[name] = image.reshape((size, size) if image.shape[1] == 1 else (size, size, -1))
    flat = signed_areas(at)
    reached = touched.reshape(size, samples, size, samples).any(axis=(1, 3))
    state = filled.reshape(size, size).astype(np.uint8) + reached
    return Baked(
        out, int(reached.sum()), int((reached & there.reshape(size, size)).sum()),
        int((flat < -FLAT).sum()), twice, own.missed, state,
    )  # fmt: skip


class _Makers:
    # makes the values of all wanted maps at places

    def __init__(
        self,
        project: Project,
        body: Body,
        uv: Image,
        surface: SurfaceAt,
        shade: GroundShade | None,
        wanted: list[str],
        source: "_Source",
        progress: Progress,
    ) -> None:
        self._project, self._body, self._surface, self._shade = project, body, surface, shade
        self._wanted, self._source = wanted, source
        self._lost: list[int] = []
        self.widths: dict[str, int] = {}
        """Images by name, and how many channels each has."""
        grounds = len(project.grounds)
        for name in wanted:
            if name == "weights":
                self.widths |= {f"weights_{first // 4 + 1}": 4 for first in range(0, grounds, 4)}
            else:
                self.widths[name] = MAPS[name].channels
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

    @property
    def missed(self) -> int:
        """Places that no ray found the fine body from, of those that were made."""
        return sum(self._lost)

    def make(self, triangle: NDArray[np.int32], share: Image) -> Iterator[tuple[str, Image]]:
        """Names of images, and (K, channels) values at K places: slots of triangles, and shares of two corners."""
        body, wanted = self._source.body, self._wanted
        base = here = Surface(self._surface, triangle, share)
        slot, fine_share, height = triangle, share, np.zeros(triangle.size, np.float32)
        if self._source.surface is not None:
            slot, fine_share, height, lost = self._met(base)
            self._lost.append(lost.size)
            if "missed" in wanted:
                gone = np.zeros((triangle.size, 1), np.float32)
                gone[lost] = 1.0
                yield "missed", gone
            long = np.column_stack([np.linalg.norm(step, axis=1) for step in (base.dx, base.dy)])
            here = Surface(self._source.surface, slot, fine_share, (base.dx, base.dy, long))
        if self._shade is not None:
            colour, rough, normal = self._shade.shade(here)
            for name, values in (("base_colour", colour), ("roughness", rough[:, None]), ("normal_object", normal)):
                if name in wanted:
                    yield name, values
            if "normal" in wanted:
                assert self._tangents is not None
                yield "normal", in_tangents(base.normal, normal, self._tangents, triangle, share)
        if "weights" in wanted:
            for first in range(0, here.weight.shape[1], 4):
                yield f"weights_{first // 4 + 1}", here.weight[:, first : first + 4]
        if "dominant" in wanted:
            yield "dominant", srgb_to_linear(np.array(KEY)).astype(np.float32)[here.weight.argmax(axis=1)]
        if "tint" in wanted and here.tint is not None:
            yield "tint", here.tint
        if "slope" in wanted:
            up = np.broadcast_to(body.up(here.position.astype(np.float64)), here.position.shape)
            cosine = np.clip((here.normal * up).sum(axis=1), -1.0, 1.0)
            yield "slope", (np.arccos(cosine) / np.pi).astype(np.float32)[:, None]
        if "position" in wanted:
            yield "position", body.placed(here.position.astype(np.float64)).astype(np.float32)
        surface = self._source.surface or self._surface
        if self._curve is not None:
            yield "curvature", surface.mixed(self._curve, slot, fine_share)
        if self._shelter is not None:
            yield "shelter", surface.mixed(self._shelter, slot, fine_share)
        if self._contact is not None:
            yield "contact", self._contact.at(here.position)[:, None]
        if "height" in wanted:
            yield "height", height[:, None]
        if "occlusion" in wanted:
            place, way = here.position.astype(np.float64), here.normal.astype(np.float64)
            yield "occlusion", self._source.sent.openness(place, way, self._source.rays, self._source.far)[:, None]

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

    def finish(self, name: str, image: Image, filled: NDArray[np.bool_]) -> None:
        """Make of (N, channels) values what images hold: normals from 0 to 1, where nothing is as well."""
        if name in ("normal", "normal_object"):
            blank = np.float32(name == "normal")
            by_pieces(lambda rows: _coded(image[rows], filled[rows], blank), len(image), AT_ONCE)


def _laid(place: NDArray[np.intp], values: Image, image: Image) -> None:
    # into the rows of an image, each at the most once
    values = np.asarray(values, np.float32)
    by_pieces(lambda rows: _put(place[rows], values[rows], image), place.size, AT_ONCE // WORKERS)


@kernel("void(int64[::1], float32[:,:], float32[:,::1])")
def _put(place: NDArray[np.intp], values: Image, image: Image) -> None:
    for i in range(place.size):
        for k in range(values.shape[1]):
            image[place[i], k] = values[i, k]


@kernel("void(float32[:,::1], boolean[::1], float32)")
def _coded(normal: Image, filled: NDArray[np.bool_], blank: np.float32) -> None:
    # vectors as colours from 0 to 1; blue where there are none
    for i in range(normal.shape[0]):
        if not filled[i]:
            normal[i, 0], normal[i, 1] = np.float32(0.5), np.float32(0.5)
            normal[i, 2] = max(blank, np.float32(0.5))
            continue
        length = np.sqrt(normal[i, 0] ** 2 + normal[i, 1] ** 2 + normal[i, 2] ** 2)
        scale = np.float32(0.5) / max(length, np.float32(1e-6))
        for k in range(3):
            normal[i, k] = normal[i, k] * scale + np.float32(0.5)


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
    texels: Texels, samples: int, at_once: int
) -> Iterator[tuple[int, NDArray[np.intp], NDArray[np.int32], NDArray[np.float32]]]:
    # line of samples, texels of the image, and the places that their samples show
    height, wide = texels.triangle.shape
    lines = max(samples, at_once // wide // samples * samples)
    for top in range(0, height, lines):
        at, triangle, share = texels.places(top, min(top + lines, height))
        row, column = at // wide // samples, at % wide // samples
        place = row * (wide // samples) + column if samples > 1 else at
        # block by block: what lies side by side looks at the same texels of textures while they are at hand
        order = np.argsort((column // BLOCK).astype(np.uint8), kind="stable")
        place, triangle, share = place[order], triangle[order], share[order]
        for first in range(0, at.size, at_once):
            some = slice(first, first + at_once)
            yield top, place[some], triangle[some], share[some]


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
    needed = size * size * (4 * channels + 16) + (size * samples) ** 2 * 10
    room = available_bytes()
    if room is not None and needed > room:
        raise InvalidInput(
            f"bake: {size} texels a side need about {needed / 1e9:.1f} GB for these images; choose fewer, or a smaller size"
        )
    return list(dict.fromkeys(maps))
