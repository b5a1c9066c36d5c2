"""Unwrapping by charts."""

import numpy as np
from numpy.typing import NDArray


def unwrapped(
    position: NDArray[np.float32], triangles: NDArray[np.int32], size: int, margin: int, bent: float = 2.0
) -> NDArray[np.float64]:
    """(M, 3, 2) texture coordinates within 0 to 1: triangles are gathered into charts that lie flat with little stretch.

    Parameters
    ----------
    position : (N, 3) float32
    triangles : (M, 3) int32
    size : int
        Texels of the image, width and height.
    margin : int
        Texels between charts.
    bent : float
        How much a bend counts against a chart: smaller values make fewer, larger charts.

    Notes
    -----
    By the library xatlas.
    """
    import xatlas  # needed for this only

    atlas = xatlas.Atlas()
    atlas.add_mesh(np.ascontiguousarray(position, np.float32), np.ascontiguousarray(triangles, np.uint32))
    charts, options = xatlas.ChartOptions(), xatlas.PackOptions()
    charts.normal_deviation_weight = bent
    charts.fix_winding = True
    options.padding, options.resolution, options.bilinear = margin, size, True
    options.rotate_charts = False  # it exchanges u and v, which mirrors
    atlas.generate(charts, options)
    _, faces, found = atlas.get_mesh(0)
    texels = np.array([atlas.width, atlas.height], np.float64)
    out = (found[faces] * texels + margin) / (max(texels) + 2 * margin)
    return np.asarray(out * (1.0, -1.0) + (0.0, 1.0), np.float64)  # v runs up there
