"""What the next press on the canvas does instead of the tool in hand: taking a ground in hand, placing the figure."""

import msgspec
import numpy as np
from PyQt6.QtCore import QPointF

from hulmo.app.overlay import Marks
from hulmo.app.tools.controller import Controller
from hulmo.core.commands import AddObject, PlaceFigure, SetLight
from hulmo.core.commands.objects import figure_here
from hulmo.core.ground.weights import weights_of
from hulmo.core.objects.scene_object import upright

OFF = 1.2
"""Metres that a new lamp hangs off the ground."""


class OnceTool(Controller):
    """A single press; beside the body it gives up."""

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        if self.session.busy:
            return False
        if self.hand.find(at) is not None:
            self.act()
        self.session.do_once("")
        return True

    def act(self) -> None:
        """Do it with what is under the pointer."""

    def mark(self, marks: Marks) -> None:
        """See `Controller.mark`."""
        marks.loose = self.hand.pointer


class PickTool(OnceTool):
    """Takes the ground that lies most there in hand."""

    def act(self) -> None:
        """See `OnceTool.act`."""
        hit, body = self.hand.hit, self.session.body
        assert hit is not None and body is not None
        rows = body.corners.vertex[3 * hit.triangle : 3 * hit.triangle + 3]
        shares = hit.weights @ weights_of(body, len(self.session.project.grounds))[rows]
        self.session.choose_ground(int(np.argmax(shares)))

    def now(self) -> None:
        """Act on what is under the pointer; with nothing there, at the next press."""
        if self.hand.hit is None or self.session.body is None:
            self.session.do_once("pick")
        else:
            self.act()
            self.session.do_once("")


class AnotherFigureTool(OnceTool):
    """Stands another figure."""

    def act(self) -> None:
        """See `OnceTool.act`."""
        hit, body = self.hand.hit, self.session.body
        assert hit is not None and body is not None
        if self.session.do(figure_here(hit.position, body.up(body.own(hit.position)[None])[0])):
            self.session.choose_object(self.session.project.objects[-1].ident)


class LampTool(OnceTool):
    """Hangs a lamp off the ground, on the side that is looked at."""

    def act(self) -> None:
        """See `OnceTool.act`."""
        hit, body = self.hand.hit, self.session.body
        assert hit is not None and body is not None
        x, y, z = (float(value) for value in hit.position + OFF * body.normal_at(hit))
        if self.session.do(AddObject("lamp", at=(x, y, z))):
            self.session.choose_object(self.session.project.objects[-1].ident)


class FogColourTool(OnceTool):
    """Gives fog the colour of what is pressed, sky or land."""

    def press(self, at: QPointF) -> bool:
        """See `Controller.press`."""
        if self.session.busy:
            return False
        light = self.session.project.light
        values = {**msgspec.structs.asdict(light), "fog_colour": light.fog_colour_for(self.hand.view.light_at(at))}
        self.session.do(SetLight(**values))
        self.session.do_once("")
        return True


class FigureTool(OnceTool):
    """Places the scale figure."""

    def act(self) -> None:
        """See `OnceTool.act`."""
        hit, body = self.hand.hit, self.session.body
        assert hit is not None and body is not None
        x, y, z = (float(value) for value in hit.position)
        self.session.do(PlaceFigure((x, y, z), upright(body.up(body.own(hit.position)[None])[0])))
