"""Charts laid into the unit square beside each other."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.uv.charts import welded

Uv = NDArray[np.float64]


def packed(uv: Uv, chart: NDArray[np.int32], size: int, margin: int, turns: bool = True) -> Uv:
    """(M, 3, 2) texture coordinates whose charts lie within 0 to 1 and apart from each other.

    Parameters
    ----------
    uv : (M, 3, 2) float64
        Charts keep their sizes to each other.
    chart : (M,) int32
        Which chart a triangle belongs to.
    size : int
        Texels of the image, width and height.
    margin : int
        Texels between charts, and to the rim of the image.
    turns : bool
        Whether charts may be turned.

    Notes
    -----
    By the library xatlas. Its own parametrization is not used; charts stay as they are.
    """
    import xatlas  # needed for this only

    place, triangles = welded(uv, chart)
    atlas = xatlas.Atlas()
    atlas.add_uv_mesh(place.astype(np.float32), triangles, chart.astype(np.uint32)[:, None])
    options = xatlas.PackOptions()
    options.padding, options.resolution = margin, size
    options.rotate_charts, options.rotate_charts_to_axis = False, turns  # the former exchanges u and v, which mirrors
    options.bilinear = True
    atlas.generate(pack_options=options)
    _, faces, found = atlas.get_mesh(0)
    texels = np.array([atlas.width, atlas.height], np.float64)
    out = (found[faces] * texels + margin) / (max(texels) + 2 * margin)
    return np.asarray(out, np.float64)


def even_density(uv: Uv, area: NDArray[np.float64], chart: NDArray[np.int32]) -> Uv:
    """Texture coordinates in metres: each chart by its area on the body; charts without area stay.

    Parameters
    ----------
    area : (M,) float64
        Square metres of the triangles.
    """
    count = int(chart.max(initial=-1)) + 1
    flat = np.abs(signed_areas(uv))
    there = np.bincount(chart, area, count)
    here = np.bincount(chart, flat, count)
    factor = np.sqrt(np.divide(there, here, out=np.ones(count), where=here > 0))
    return np.asarray(uv * factor[chart][:, None, None])


def signed_areas(uv: Uv) -> NDArray[np.float64]:
    """(M,) area of triangles in texture coordinates; below 0 where they are mirrored (v runs down)."""
    a, b = uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]
    return np.asarray(-(a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]) / 2)
