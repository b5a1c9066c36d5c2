"""By hand: presses choose, and grips move, turn and scale what is chosen."""

import math

import numpy as np
from PyQt6.QtCore import QObject, QPointF, Qt

from hulmo.app.grips import Grip
from hulmo.app.overlay import Marks
from hulmo.app.session import Session
from hulmo.app.tools.controller import Controller, Pointing, Vector, holds
from hulmo.app.tools.reach import REACH, pixel
from hulmo.core.by_hand.choice import as_domain, chosen
from hulmo.core.commands import Command, MoveChosen, PlaceBody, PlantVertex
from hulmo.core.commands.move_chosen import frame_of, middle_of
from hulmo.core.setting import number

ARM = 74.0
"""Pixels from the middle to the end of an arm."""

TURN = 0.5
"""Degrees that a pixel turns."""

WAYS = (("E", np.array([1.0, 0.0, 0.0])), ("Up", np.array([0.0, 1.0, 0.0])), ("N", np.array([0.0, 0.0, -1.0])))
"""Letter and direction of each arm."""

LETTERS = ("square", "triangle", "round")
"""Shapes by which arms are told apart."""


class ByHandTool(Controller):
    """Chooses where no grip is; a press that misses the grips moves nothing."""

    @property
    def shows_vertices(self) -> bool:  # type: ignore[override]
        """See `Controller`."""
        return self.session.parts.domain == "vertex"

    def __init__(self, session: Session, hand: Pointing, parent: QObject) -> None:
        super().__init__(session, hand, parent)
        self._arm: int | None = None
        self._start, self._middle = QPointF(), np.zeros(3)
        self._last: Command | None = None
        self._held_axes = np.eye(3)
        self._held_ways: list[Vector] = []
        self._pivot: Vector | None = None
        self._square = False

    @property
    def held(self) -> bool:
        """See `Controller.held`."""
        return self._arm is not None or self.session.parts.held

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        body = self.session.body
        if body is None or self.session.busy:
            return False
        name = self.session.tool.name
        if name == "plant":
            hit = self.hand.find(at)
            if hit is not None:
                a, b, c = (
                    float(value) for value in np.clip(hit.weights, 0.0, 1.0) / np.clip(hit.weights, 0.0, 1.0).sum()
                )
                self.session.do(PlantVertex(body.name, int(hit.triangle), (a, b, c)))
            return hit is not None
        middle = self.middle()
        if name in ("move", "turn", "scale") and middle is not None:
            for arm, spot in enumerate(self._spots(middle)):
                if spot is not None and math.hypot(spot.x() - at.x(), spot.y() - at.y()) <= REACH:
                    self._arm, self._start, self._middle, self._last = arm, at, middle, None
                    self._square = holds(Qt.KeyboardModifier.ControlModifier)
                    self._held_axes, self._held_ways = self._axes(), [way for _, way in self._ways()]
                    return True
        hit = self.hand.find(at)
        if name in ("move", "turn", "scale") and self.session.hand_values["about"] == "place" and not self._whole:
            if hit is not None:
                self._pivot = np.asarray(hit.position, np.float64)
                self.hand.refresh()
            return hit is not None
        way = "set"
        if holds(Qt.KeyboardModifier.ControlModifier):
            way = "take"
        elif holds(Qt.KeyboardModifier.ShiftModifier):
            way = "add"
        self.session.parts.press(body, at, hit, way)
        return True

    def move(self, at: QPointF) -> None:
        """See `Controller.move`."""
        body = self.session.body
        if body is None:
            return
        if self._arm is None:
            self.session.parts.move(body, at, self.hand.find(at))
            return
        command = self._command(body.name, at)
        if self.session.drags.after(command, self._last):
            self._last = command

    def release(self) -> None:
        """See `Controller.release`."""
        if self._arm is not None:
            self._arm = None
            self.hand.refresh()
        elif self.session.body is not None and self.session.parts.held:
            view = self.hand.view
            self.session.parts.release(self.session.body, view.camera, view.width(), view.height())

    def mark(self, marks: Marks) -> None:
        """See `Controller.mark`."""
        marks.outline = self.session.parts.outline
        middle = self.middle()
        if self.session.tool.name in ("move", "turn", "scale") and middle is not None:
            spots = self._spots(middle)
            marks.grips = [
                Grip(spots[0], spot, shape, letter, arm == self._arm)
                for arm, (spot, shape, (letter, _)) in enumerate(zip(spots[1:], LETTERS, self._ways(), strict=True), 1)
                if spot is not None and spots[0] is not None
            ]
            marks.grip_kind = self.session.tool.name

    def middle(self) -> Vector | None:
        """Middle of what is dragged, metres of the world; None where nothing is."""
        body = self.session.body
        if body is None:
            return None
        if self._whole:
            return np.asarray(body.placed(body.bounds().centre))
        domain = self.session.parts.domain
        rows = as_domain(body, chosen(body, domain), domain, "vertex")
        if not rows.any():
            return None
        if self.session.hand_values["about"] == "place" and self._pivot is not None:
            return self._pivot
        return np.asarray(body.placed(middle_of(body.vertices["position"][rows].astype(np.float64))))

    @property
    def _whole(self) -> bool:
        return self.session.hand_values["what"] == "body"

    def _axes(self) -> Vector:
        # (3, 3) directions of the arms, a row each, as commands take them: X, Y and Z of a right-handed frame
        body, kind = self.session.body, str(self.session.hand_values["frame"])
        if kind == "view":
            camera = self.hand.view.camera
            return np.stack((camera.right, camera.up, camera.back))
        if kind == "normal" and body is not None and not self._whole:
            domain = self.session.parts.domain
            rows = as_domain(body, chosen(body, domain), domain, "vertex")
            if rows.any():
                return frame_of(body, rows).T
        return np.eye(3)

    def _ways(self) -> list[tuple[str, Vector]]:
        # letter and direction of each arm; the world's third arm points north
        kind, axes = str(self.session.hand_values["frame"]), self._axes()
        if kind == "world":
            return list(WAYS)
        letters = ("R", "U", "F") if kind == "view" else ("A", "O", "B")
        return list(zip(letters, axes, strict=True))

    def _spots(self, middle: Vector) -> list[QPointF | None]:
        # where the middle and the ends of the arms are on the canvas
        view = self.hand.view
        size = pixel(view, middle) * ARM
        points = np.stack((middle, *(middle + way * size for _, way in self._ways())))
        seen = view.camera.to_screen(points, view.width(), view.height())
        return [QPointF(float(x), float(y)) if away > view.camera.near else None for x, y, away in seen]

    def _command(self, name: str, at: QPointF) -> Command:
        # within the frame of the arms: a move, a turn about its axes, or a scale along them
        values, kind = self.session.hand_values, self.session.tool.name
        step, arm, axes = at - self._start, self._arm, self._held_axes
        assert arm is not None
        view, size = self.hand.view, pixel(self.hand.view, self._middle)
        move, turn, scale = np.zeros(3), np.zeros(3), np.ones(3)
        if arm == 0:
            if kind == "move":
                way = view.camera.right * (step.x() * size) - view.camera.up * (step.y() * size)
                snapped = self._snapped(at)
                move = axes @ (way if snapped is None else snapped - self._middle)
            elif kind == "turn":
                turn[1] = self._stepped(step.x() * TURN, "step_turn")
            else:
                scale[:] = math.exp((step.x() - step.y()) / 150)
        else:
            way = self._held_ways[arm - 1]
            own = axes @ way
            across, upward = float(way @ view.camera.right), float(way @ view.camera.up)
            along = (step.x() * across - step.y() * upward) / max(across**2 + upward**2, 0.05)
            square = self._square  # what the arm is square to, instead of along it
            if kind == "move" and square:
                move = axes @ self._in_plane(at, way)
            elif kind == "move":
                move = own * self._stepped(along * size, "step_move")
            elif kind == "turn":
                turn = own * self._stepped((step.x() - step.y()) * TURN, "step_turn")
            else:
                scale = np.where((np.abs(own) > 0.5) != square, math.exp(along / 150), 1.0)
        if self._whole:
            return PlaceBody(name, triple(axes.T @ move), triple(axes.T @ turn), triple(scale))
        frame = "world" if values["frame"] == "world" else "axes"
        about = str(values["about"])
        if about == "place" and self._pivot is None:
            about = "middle"
        return MoveChosen(
            name, self.session.parts.domain, triple(move), triple(turn), triple(scale), about,
            triple(self._middle) if about == "place" else (0.0, 0.0, 0.0), frame=frame, reach=number(values, "reach"),
            over=str(values["over"]), falloff=str(values["falloff"]),
            layer=self.session.layer, slide=bool(values["slide"]), mirror=str(values["mirror"]),
            axes=(triple(axes[0]), triple(axes[1]), triple(axes[2])),
        )  # fmt: skip

    def _in_plane(self, at: QPointF, normal: Vector) -> Vector:
        # how far a drag goes within the plane through the middle that an arm is square to
        out = []
        for place in (self._start, at):
            origin, direction = self.hand.ray(place)
            down = float(direction @ normal)
            if abs(down) < 1e-3 * float(np.linalg.norm(direction)):
                return np.zeros(3)  # one looks along the plane
            out.append(origin + direction * (float((self._middle - origin) @ normal) / down))
        return np.asarray(out[1] - out[0])

    def _snapped(self, at: QPointF) -> Vector | None:
        # the vertex or surface under the pointer that what is dragged is not part of
        kind = str(self.session.hand_values["snap"])
        if kind == "off":
            return None
        origin, direction = self.hand.ray(at)
        best: tuple[float, Vector] | None = None
        for body in self.session.project.bodies:
            mine = body is self.session.body
            if not body.shown or (mine and self._whole):
                continue
            hit = body.ray(origin, direction)
            if hit is None or not self.hand.view.inside.shows(hit.position):
                continue
            rows = body.corners.triangles[hit.triangle]
            if mine:
                domain = self.session.parts.domain
                if as_domain(body, chosen(body, domain), domain, "vertex")[rows].any():
                    continue
            place = hit.position
            if kind == "vertex":
                place = body.placed(body.vertices["position"][rows[int(hit.weights.argmax())]].astype(np.float64))
            if best is None or hit.distance < best[0]:
                best = (hit.distance, np.asarray(place))
        return None if best is None else best[1]

    def _stepped(self, value: float, name: str) -> float:
        step = number(self.session.hand_values, name)
        return value if step <= 0 else round(value / step) * step


def triple(values: Vector) -> tuple[float, float, float]:
    """Three plain numbers."""
    x, y, z = (float(value) + 0.0 for value in values)
    return x, y, z
