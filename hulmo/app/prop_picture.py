"""Small pictures of props, drawn from their meshes."""

import numpy as np
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QPainter, QPixmap, QPolygonF

from hulmo.core.colour import linear_to_srgb
from hulmo.core.props.prop import PropMesh

_made: dict[tuple[int, int], tuple[PropMesh, QPixmap]] = {}


def prop_picture(mesh: PropMesh, side: int) -> QPixmap:
    """A picture of so many pixels a side, seen from a little above; what lies behind is painted first."""
    key = (id(mesh), side)
    if key in _made:
        return _made[key][1]
    made = mesh.levels[0] if mesh.triangles.shape[0] <= 4000 else mesh.levels[1]
    turn, lift = np.radians(35.0), np.radians(22.0)
    east = np.array([np.cos(turn), 0.0, -np.sin(turn)])
    back = np.array([np.sin(turn) * np.cos(lift), np.sin(lift), np.cos(turn) * np.cos(lift)])
    up = np.cross(back, east)
    flat = made.position.astype(np.float64) @ np.stack((east, up, back), axis=1)
    low, high = flat[:, :2].min(axis=0), flat[:, :2].max(axis=0)
    scale = (side - 6) / max(float((high - low).max()), 1e-9)
    at = (flat[:, :2] - (low + high) / 2) * scale * (1.0, -1.0) + side / 2
    corners = made.triangles
    face = np.cross(
        made.position[corners[:, 1]] - made.position[corners[:, 0]],
        made.position[corners[:, 2]] - made.position[corners[:, 0]],
    )
    face /= np.maximum(np.linalg.norm(face, axis=1, keepdims=True), 1e-12)
    light = 0.45 + 0.75 * np.abs(face @ np.array([0.35, 0.8, 0.48]))
    colour = (
        np.clip(linear_to_srgb(np.clip(made.colour[corners].mean(axis=1) * light[:, None] * 1.5, 0, 1)), 0, 1) * 255
    )
    picture = QPixmap(side, side)
    picture.fill(QColor(0, 0, 0, 0))
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    for i in np.argsort(flat[corners, 2].mean(axis=1), kind="stable").tolist():
        shade = QColor(*(int(value) for value in colour[i]))
        painter.setPen(shade)
        painter.setBrush(shade)
        painter.drawPolygon(QPolygonF([QPointF(float(x), float(y)) for x, y in at[corners[i]]]))
    painter.end()
    _made[key] = (mesh, picture)
    return picture
