"""Props in hand: pressed to be chosen, dragged along the ground."""

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QObject, QPointF, Qt

from hulmo.app.overlay import Marks
from hulmo.app.session import Session
from hulmo.app.tools.controller import Controller, Pointing, Vector, holds
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.strewn import anchors
from hulmo.core.props.tray import mesh_of

SOON = 3.0
"""Pixels that a press must be dragged before it moves anything."""

SLACK = 4.0
"""Pixels beside a prop that still count as on it."""


class PropTool(Controller):
    """Choosing never moves: a press takes a prop in hand, Shift adds to those that are, a drag moves them on the ground."""

    def __init__(self, session: Session, hand: Pointing, parent: QObject) -> None:
        super().__init__(session, hand, parent)
        self._start: QPointF | None = None
        self._moving = False

    @property
    def held(self) -> bool:
        """See `Controller.held`."""
        return self._start is not None

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        work = self.session.props
        if self.session.busy or work.body is None:
            return False
        row = self._prop_at(work.body, at)
        if row < 0:
            if not holds(Qt.KeyboardModifier.ShiftModifier):
                work.choose(())
            return False
        chosen = work.chosen
        if holds(Qt.KeyboardModifier.ShiftModifier):
            work.choose(tuple(r for r in chosen if r != row) if row in chosen else (*chosen, row))
        elif row not in chosen:
            work.choose((row,))
        else:
            work.choose((row, *(r for r in chosen if r != row)))
        self._start, self._moving = at, False
        return True

    def move(self, at: QPointF) -> None:
        """See `Controller.move`."""
        work, start = self.session.props, self._start
        if start is None or work.body is None or not work.chosen:
            return
        if not self._moving and (at - start).manhattanLength() < SOON:
            return
        self._moving = True
        hit = work.body.ray(*self.hand.ray(at))
        if hit is not None and self.hand.view.inside.shows(hit.position):
            x, y, z = (float(value) for value in hit.position)
            work.do("props moved", at=(x, y, z))

    def release(self) -> None:
        """See `Controller.release`."""
        self._start = None

    def mark(self, marks: Marks) -> None:
        """A frame around what is in hand."""
        work = self.session.props
        rows, body = work.chosen, work.body
        if body is None or not rows:
            return
        middle, reach = self._seen(body, np.array(rows))
        low, high = (middle[:, :2] - reach[:, None]).min(axis=0), (middle[:, :2] + reach[:, None]).max(axis=0)
        if (middle[:, 2] > self.hand.view.camera.near).all():
            marks.outline = [QPointF(*low.tolist()), QPointF(*high.tolist())]

    def _prop_at(self, body: Body, at: QPointF) -> int:
        # the nearest one under a place on the canvas that no ground hides
        strewn = self.session.props.strewn
        rows = np.flatnonzero(strewn.there)
        if not rows.size:
            return -1
        middle, reach = self._seen(body, rows)
        off = np.hypot(middle[:, 0] - at.x(), middle[:, 1] - at.y())
        hit = body.ray(*self.hand.ray(at))
        behind = np.inf if hit is None else hit.distance
        size = reach * self._metre(middle[:, 2])
        fits = (off <= reach + SLACK) & (middle[:, 2] > self.hand.view.camera.near) & (middle[:, 2] < behind + 2 * size)
        if not fits.any():
            return -1
        where = np.flatnonzero(fits)
        return int(rows[where[np.argmin(off[where] / np.maximum(reach[where], 1.0) + 1e-3 * middle[where, 2])]])

    def _seen(self, body: Body, rows: NDArray[np.integer]) -> tuple[Vector, Vector]:
        # (K, 3) places on the canvas with their depth, and pixels that each prop reaches around it
        project, strewn = self.session.project, self.session.props.strewn.taken(rows)
        place, _ = anchors(body, strewn)
        high, wide = np.zeros(strewn.count), np.zeros(strewn.count)
        for prop in project.props:
            mesh = mesh_of(prop, project.prop_meshes)
            mine = strewn.prop == prop.ident
            high[mine] = (mesh.high + mesh.low) / 2 * strewn.size[mine]
            wide[mine] = max(mesh.radius, (mesh.high - mesh.low) / 2) * strewn.size[mine]
        up = np.broadcast_to(body.up(place), place.shape)
        view = self.hand.view
        seen = view.camera.to_screen(body.placed(place + up * high[:, None]), view.width(), view.height())
        return seen, wide / np.maximum(self._metre(seen[:, 2]), 1e-12)

    def _metre(self, depth: Vector) -> Vector:
        # metres that a pixel covers at depths
        one = self.hand.view.camera.metres_per_pixel(1.0, self.hand.view.height())
        return np.asarray(one * np.maximum(depth, 1e-3))
