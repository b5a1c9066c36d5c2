"""The sky as air scatters sunlight in it, and how much light comes from it."""

import functools
import math

import numpy as np
from numpy.typing import NDArray

from hulmo.core.kernel import kernel, part_of_kernels, written_into_kernels
from hulmo.core.workers import by_pieces

Image = NDArray[np.float32]
Values = NDArray[np.float64]

GROUND, TOP = 6_360e3, 6_420e3
"""Metres from the middle of the planet to the ground, and to where air ends."""

RAYLEIGH = 13.5e-6 * (550.0 / np.array([611.0, 549.0, 464.0])) ** 4
"""Share of red, green and blue light that a metre of clear air at the ground scatters: as the fourth power of the wave length
falls (Rayleigh 1871), at those that the primaries of sRGB look like."""

RAYLEIGH_HEIGHT = 8_000.0
"""Metres over which that falls by 1/e."""

DUST = 2.0e-6
"""Share that haze of strength 1 scatters on a metre at the ground, of every colour."""

DUST_HEIGHT, DUST_AHEAD = 1_200.0, 0.76
"""Metres over which that falls by 1/e; how much of it goes on ahead (g of Henyey and Greenstein)."""

AGAIN = 0.25
"""Share of the light scattered out of a ray of sight that others which were scattered before make good; it stands in for
scattering more than once, without which the horizon turns green (common practice, no source)."""

ROWS, COLUMNS = 96, 64
"""Of the image: elevations from straight down to straight up, and bearings from the sun to its opposite."""

STEPS, SUN_STEPS = 20, 8

PIECE = 512
"""Rays of sight that one thread does at a time."""

_EDGES = np.linspace(0.0, 1.0, SUN_STEPS + 1) ** 1.5
SUN_SHARES = (_EDGES[1:] + _EDGES[:-1]) / 2, np.diff(_EDGES)
"""Middles and lengths of the steps toward the sun, as shares of the way out of the air."""

REFERENCE = (34.0, 1.0, 1.0)
"""Altitude, air and haze at which light has the strength that is typed."""

CLEAR_DAY = 0.5
"""Green light from above at the reference, on a level surface, over pi."""

HELD = 2.0
"""Light that is drawn with half of its strength: the horizon is held back so that it keeps a colour (common practice, no
source)."""

LUMINANCE = np.array([0.2126, 0.7152, 0.0722])
"""Of red, green and blue (Rec. ITU-R BT.709)."""

SUN = 3.0
"""Strength of sunlight on the ground below the horizon: a clear day."""

ALBEDO = np.array([0.30, 0.27, 0.22])
"""Of the ground that is seen below the horizon."""


def rayleigh_phase(cosine: Values) -> Values:
    """Share of light that air scatters by an angle, a steradian: 3 (1 + cos^2) / (16 pi)."""
    return np.asarray(3.0 * (1.0 + cosine * cosine) / (16.0 * np.pi))


def dust_phase(cosine: Values, ahead: float = DUST_AHEAD) -> Values:
    """The same for haze; Henyey and Greenstein 1941, with the numerator of Cornette and Shanks 1992."""
    g = ahead
    return np.asarray(
        3.0 / (8.0 * np.pi) * (1 - g * g) / (2 + g * g) * (1 + cosine**2) / (1 + g * g - 2 * g * cosine) ** 1.5
    )


def elevations() -> Values:
    """(ROWS,) degrees above the horizon of the middles of the rows of an image: closer together near the horizon."""
    v = (np.arange(ROWS) + 0.5) / ROWS * 2.0 - 1.0
    return np.asarray(np.sign(v) * v * v * 90.0)


def scattered(way: Values, sun: Values, air: float, haze: float) -> Values:
    """Light that comes from the sky, for sunlight of strength 1 above the air.

    Parameters
    ----------
    way : (K, 3) float64
        Unit vectors that are looked along, +Y up.
    sun : (3,) float64
        Unit vector to the sun.
    air, haze : float
        Thickness; 1 is a clear day.

    Returns
    -------
    (K, 3)
        Red, green, blue; what is looked at below the horizon counts as along it.

    Notes
    -----
    Single scattering: Nishita, Sirai, Tadamura and Nakamae, "Display of the Earth taking into account atmospheric
    scattering" (SIGGRAPH 1993), with the coefficients of Bruneton and Neyret (2008).
    """
    level = np.array(way, np.float64)
    level[:, 1] = np.maximum(level[:, 1], 0.0)
    level /= np.maximum(np.linalg.norm(level, axis=1, keepdims=True), 1e-12)
    # steps are short near the ground, where the air is
    edge = np.linspace(0.0, 1.0, STEPS + 1) ** 2
    steps = (edge[1:] + edge[:-1]) / 2, np.diff(edge)
    beta_air, beta_dust = RAYLEIGH * air, np.full(3, DUST * haze)
    out_air, out_dust = np.zeros((level.shape[0], 3)), np.zeros((level.shape[0], 3))
    toward = np.ascontiguousarray(sun, np.float64)

    def some(rows: slice) -> None:
        _scatter(level[rows], toward, *steps, *SUN_SHARES, beta_air, beta_dust, out_air[rows], out_dust[rows])

    by_pieces(some, level.shape[0], PIECE)
    cosine = level @ sun
    return np.asarray(
        out_air * beta_air * rayleigh_phase(cosine)[:, None] + out_dust * beta_dust * dust_phase(cosine)[:, None]
    )


def sun_through(altitude: float, air: float, haze: float) -> Values:
    """(3,) share of sunlight that comes through the air to the ground."""
    sun = _toward_sun(altitude)
    depth_air, depth_dust, lit = _toward(np.array([[0.0, GROUND + 2.0, 0.0]]), sun)
    return np.asarray(np.exp(-depth_air[0] * RAYLEIGH * air - 1.1 * depth_dust[0] * np.full(3, DUST * haze)) * lit[0])


@functools.lru_cache(maxsize=16)
def sky_image(altitude: float, air: float, haze: float) -> Image:
    """The sky about the bearing of the sun.

    Parameters
    ----------
    altitude : float
        Of the sun, degrees.
    air, haze : float
        Thickness; 1 is a clear day, no air a black sky.

    Returns
    -------
    (ROWS, COLUMNS, 3) float32
        Linear light where a clear day has strength 1; rows as `elevations`, columns from the bearing of the sun (0 degrees)
        to its opposite (180).
    """
    light = _raw(altitude, air, haze) * _gain()
    bright = light @ LUMINANCE
    light /= (1.0 + bright / HELD)[..., None]
    above = elevations() > 0
    sun = sun_through(altitude, air, haze) / np.maximum(sun_through(*REFERENCE), 1e-12)
    upper = np.where(above[:, None, None], light, 0.0).astype(np.float32)
    falls = irradiance(upper, np.array([0.0, 1.0, 0.0])) + sun * (
        SUN * max(math.sin(math.radians(altitude)), 0.0) / math.pi
    )
    # far below lies ground in the light of both, behind ever less air the steeper one looks
    down = np.clip(-np.sin(np.radians(elevations())) / 0.5, 0.0, 1.0)[:, None, None] ** 0.5
    below = light * (1.0 - down) + ALBEDO * falls * down if air or haze else np.zeros_like(light)  # no ground in space
    return np.asarray(np.where(above[:, None, None], light, below), np.float32)


def irradiance(image: Image, way: Values) -> Values:
    """(3,) light that falls from a sky image on a surface that faces a (3,) unit vector, over pi.

    Notes
    -----
    The integral of light times cosine over all directions; a sky of 1 everywhere gives 1. X points to the sun's bearing.
    """
    up = np.radians(elevations())
    edges = np.linspace(-1.0, 1.0, ROWS + 1)
    bound = np.sin(np.radians(np.sign(edges) * edges * edges * 90.0))
    turn = (np.arange(COLUMNS) + 0.5) / COLUMNS * np.pi
    solid = np.diff(bound)[:, None] * (np.pi / COLUMNS)
    total = np.zeros(3)
    for side in (1.0, -1.0):
        x = np.cos(up)[:, None] * np.cos(turn)
        z = side * np.cos(up)[:, None] * np.sin(turn)
        y = np.broadcast_to(np.sin(up)[:, None], x.shape)
        cosine = np.maximum(x * way[0] + y * way[1] + z * way[2], 0.0)
        total += np.einsum("ij,ijk->k", cosine * solid, image.astype(np.float64))
    return np.asarray(total / np.pi)


@functools.lru_cache(maxsize=64)
def from_above(altitude: float, air: float, haze: float) -> tuple[float, float, float]:
    """Light of the sky on a level surface, red, green, blue, as a share of that at the reference."""
    if not air and not haze:
        return 1.0, 1.0, 1.0
    up = np.array([0.0, 1.0, 0.0])
    now, then = (irradiance(sky_image(*what), up) for what in ((altitude, air, haze), REFERENCE))
    red, green, blue = (now / then).tolist()
    return red, green, blue


@functools.lru_cache(maxsize=64)
def sun_tint(altitude: float, air: float, haze: float) -> tuple[float, float, float]:
    """Sunlight at the ground, red, green, blue, as a share of that at the reference."""
    now, then = sun_through(altitude, air, haze), sun_through(*REFERENCE)
    red, green, blue = (now / then).tolist() if air or haze else (1.0, 1.0, 1.0)
    return red, green, blue


@functools.cache
def _gain() -> float:
    return CLEAR_DAY / float(irradiance(np.asarray(_raw(*REFERENCE), np.float32), np.array([0.0, 1.0, 0.0]))[1])


@functools.lru_cache(maxsize=4)
def _raw(altitude: float, air: float, haze: float) -> Values:
    # from the horizon up; below it all rows are as the horizon is
    up = np.radians(np.append(0.0, elevations()[ROWS // 2 :]))[:, None]
    turn = (np.arange(COLUMNS) + 0.5) / COLUMNS * np.pi
    way = np.stack(
        (np.cos(up) * np.cos(turn), np.broadcast_to(np.sin(up), (len(up), COLUMNS)), np.cos(up) * np.sin(turn)), axis=2
    )
    light = scattered(way.reshape(-1, 3), _toward_sun(altitude), air, haze).reshape(-1, COLUMNS, 3)
    return np.concatenate((np.repeat(light[:1], ROWS // 2, axis=0), light[1:]))


def _toward_sun(altitude: float) -> Values:
    angle = math.radians(altitude)
    return np.array([math.cos(angle), math.sin(angle), 0.0])


def _toward(place: Values, sun: Values) -> tuple[Values, Values, Values]:
    # metres of air and of haze, as thick as at the ground, from places to the sun; 0 where the planet lies between
    out = np.empty((place.shape[0], 3))
    _depths(np.ascontiguousarray(place), np.ascontiguousarray(sun, np.float64), *SUN_SHARES, out)
    return out[:, 0], out[:, 1], out[:, 2]


@part_of_kernels
def _out_of_air(x, y, z, u, v, w):  # type: ignore[no-untyped-def]
    # metres from a place, about the middle of the planet, to where air ends
    along = x * u + y * v + z * w
    return -along + math.sqrt(max(along * along - (x * x + y * y + z * z - TOP * TOP), 0.0))


@written_into_kernels
def _to_sun(x, y, z, sun, share, step):  # type: ignore[no-untyped-def]
    u, v, w = sun[0], sun[1], sun[2]
    far = _out_of_air(x, y, z, u, v, w)
    air, dust = 0.0, 0.0
    for i in range(share.size):
        at = far * share[i]
        px, py, pz = x + u * at, y + v * at, z + w * at
        height = max(math.sqrt(px * px + py * py + pz * pz) - GROUND, 0.0)
        air += math.exp(-height / RAYLEIGH_HEIGHT) * far * step[i]
        dust += math.exp(-height / DUST_HEIGHT) * far * step[i]
    along = x * u + y * v + z * w
    lit = 1.0
    if along < 0.0:
        nearest = math.sqrt(max(x * x + y * y + z * z - along * along, 0.0))
        if nearest < GROUND:  # the sun is no point: it sets over its own width
            lit = min(max((nearest - GROUND) / 6e4 + 1.0, 0.0), 1.0) ** 4
    return air, dust, lit


@kernel("void(float64[:,::1], float64[::1], float64[::1], float64[::1], float64[:,::1])")
def _depths(place: Values, sun: Values, share: Values, step: Values, out: Values) -> None:
    for i in range(place.shape[0]):
        out[i, 0], out[i, 1], out[i, 2] = _to_sun(place[i, 0], place[i, 1], place[i, 2], sun, share, step)


@kernel(
    "void(float64[:,::1], float64[::1], float64[::1], float64[::1], float64[::1], float64[::1], float64[::1], float64[::1], "
    "float64[:,::1], float64[:,::1])"
)
def _scatter(
    level: Values, sun: Values, share: Values, step: Values, sun_share: Values, sun_step: Values, beta_air: Values,
    beta_dust: Values, out_air: Values, out_dust: Values,
) -> None:  # fmt: skip
    # light that air and haze scatter into rays of sight, before the share of it that they scatter that way
    up = GROUND + 2.0
    for i in range(level.shape[0]):
        u, v, w = level[i, 0], level[i, 1], level[i, 2]
        far = _out_of_air(0.0, up, 0.0, u, v, w)
        depth_air, depth_dust = 0.0, 0.0
        for j in range(share.size):
            at = far * share[j]
            x, y, z = u * at, up + v * at, w * at
            height = max(math.sqrt(x * x + y * y + z * z) - GROUND, 0.0)
            here_air = math.exp(-height / RAYLEIGH_HEIGHT) * far * step[j]
            here_dust = math.exp(-height / DUST_HEIGHT) * far * step[j]
            sun_air, sun_dust, lit = _to_sun(x, y, z, sun, sun_share, sun_step)
            through_air = (1.0 - AGAIN) * (depth_air + here_air / 2.0) + sun_air
            through_dust = (1.0 - AGAIN) * (depth_dust + here_dust / 2.0) + sun_dust
            for k in range(3):
                through = math.exp(-through_air * beta_air[k] - 1.1 * through_dust * beta_dust[k]) * lit
                out_air[i, k] += through * here_air
                out_dust[i, k] += through * here_dust
            depth_air += here_air
            depth_dust += here_dust
