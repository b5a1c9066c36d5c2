"""Where props stand on a body."""

import numpy as np
from numpy.typing import NDArray

from hulmo.core.mesh.body import Body
from hulmo.core.mesh.strewn import anchors
from hulmo.core.props.strew import Tray

ASKED = 8
"""Props about a place that are asked."""


class Contact:
    """Answers how near places of a body are to the feet of its props.

    Parameters
    ----------
    body : Body
    tray : Tray
    """

    def __init__(self, body: Body, tray: Tray) -> None:
        from scipy.spatial import cKDTree  # needed for this only

        self._tree = None
        strewn = body.strewn
        if strewn is None or not strewn.there.any():
            return
        place, _ = anchors(body, strewn)
        radius = np.zeros(strewn.count)
        for ident, mesh in tray.meshes.items():
            radius[strewn.prop == ident] = float(mesh.outline.mean())
        radius *= strewn.size
        there = strewn.there & (radius > 0)
        if there.any():
            self._tree, self._radius = cKDTree(place[there]), radius[there]

    def at(self, place: NDArray[np.floating]) -> NDArray[np.float32]:
        """(K,) at (K, 3) places, metres about the body's origin: 1 within a foot, 0 from twice its mean radius on."""
        if self._tree is None:
            return np.zeros(place.shape[0], np.float32)
        count = min(ASKED, self._radius.size)
        away, who = self._tree.query(place, k=count)
        away, who = away.reshape(-1, count), who.reshape(-1, count)
        radius = self._radius[who]
        return np.asarray(np.clip(2.0 - away / radius, 0.0, 1.0).max(axis=1), np.float32)
