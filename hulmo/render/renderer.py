"""The scene renderer: keeps a project's copy on the graphics card and draws pictures of it."""

from collections.abc import Iterator
from dataclasses import replace

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.edit import Change
from hulmo.core.mesh.body import Body, Bounds
from hulmo.core.mesh.extent import Extent
from hulmo.core.mesh.origin import FAR
from hulmo.core.objects import KINDS, standing
from hulmo.core.objects.kind import SIGN
from hulmo.core.objects.level_water import LEVEL_WATER
from hulmo.core.objects.scene_object import SceneObject, world_matrix
from hulmo.core.objects.water import water_settings
from hulmo.core.project import Project
from hulmo.core.setting import number
from hulmo.core.water.surface import WaterSurface
from hulmo.render.camera import Camera
from hulmo.render.context import is_software
from hulmo.render.inside import Inside
from hulmo.render.looks import LOOKS, first_values
from hulmo.render.onto_screen import OntoScreen
from hulmo.render.part import Part
from hulmo.render.passes import IN_SCENE
from hulmo.render.passes.depth import draw_depth
from hulmo.render.passes.resolve import draw_result
from hulmo.render.passes.shot import WHOLE, Shot
from hulmo.render.passes.stretch import draw_stretched
from hulmo.render.passes.surface import gathers, has_same_depth, programs_of
from hulmo.render.passes.vertices import LARGEST
from hulmo.render.programs import Programs
from hulmo.render.stage import Stage
from hulmo.render.targets import Targets
from hulmo.render.touched import Touched
from hulmo.render.view import Paper, View, from_tables

STEP = 1024.0
"""Metres of the raster of places that pictures far from zero count from."""

SOFT = 10
"""Pixels that softening stair-steps looks to each side."""

NOTHING = Bounds(np.array([-5.0, -5.0, -5.0]), np.array([5.0, 5.0, 5.0]))
"""Extent that stands in for a project without bodies."""


def scene_bounds(project: Project) -> Bounds:
    """Extent of all bodies of a project, from their spatial indexes where they have one; a cube of 10 m where there are no
    bodies."""
    boxes = [body.placed(_box(body)) for body in project.bodies]
    if not boxes:
        return NOTHING
    low, high = np.min([box[0] for box in boxes], axis=0), np.max([box[1] for box in boxes], axis=0)
    return Bounds(low, high)


def _box(body: Body) -> NDArray[np.floating]:
    if body.has_index:
        return body.index.bounds
    bounds = body.bounds()
    return np.stack((bounds.low, bounds.high))


def reach_of(bounds: Bounds, objects: tuple[SceneObject, ...], signs: bool) -> Bounds:
    """Extent of bodies and of what else is drawn: what no clipping plane may cut."""
    low, high = bounds.low, bounds.high
    for entry in standing(objects):
        kind = KINDS.get(entry.kind)
        sign = kind is None or kind.sign
        if entry.shown and (signs or not sign):
            at = world_matrix(objects, entry)[:3, 3]
            size = SIGN * bounds.radius if sign else 2.0 * entry.scale
            low, high = np.minimum(low, at - size), np.maximum(high, at + size)
        if entry.shown and entry.kind == LEVEL_WATER.name:
            at, half = world_matrix(objects, entry)[:3, 3], number(water_settings(entry), "size") / 2
            low, high = np.minimum(low, at - half), np.maximum(high, at + half)
    return Bounds(low, high)


class Renderer:
    """Draws one project.

    `follow` takes the changes of a history and sends only what they name. `picture` draws at once, `steps` in pieces
    between which the caller can answer the hand, `part` draws a rectangle of a picture anew.

    Parameters
    ----------
    context : moderngl.Context
        Must be current whenever the renderer is called.
    project : Project
    waiting : bool
        Whether someone works on it: guarded surface and back faces are marked then.
    """

    def __init__(self, context: moderngl.Context, project: Project, waiting: bool = False) -> None:
        self.context = context
        self.software = is_software(context)
        self._stage = Stage(context, project, Programs(context), self.software)
        self._screen = OntoScreen(context, self._stage.programs)
        self.vertices_of = 0
        """Number of the body whose vertices are shown as points; 0 for none."""
        self.ground = 0
        """Column of the ground that the look at one ground's weight shows."""
        self._shadow_stale = True
        self._near_of: tuple[float, float, float, float] | None = None
        self._bounds: Bounds | None = None
        self.paper = Paper()
        self.look_values = first_values()
        """Settings of every look."""
        self.inside = Inside()
        """Section plane and lamp."""
        self._anchor = np.zeros(3)
        self.hatch = waiting
        """Whether guarded surface is hatched."""
        self.signs = False
        """Whether signs show where things are that have no shape; for who works on them."""
        self.backs = waiting
        """Whether back faces are dotted, on bodies that have a border."""
        self.shadows = True
        """Whether anything casts a shadow, and hollows are shaded by what stands around them; neither is delivered."""

    @property
    def project(self) -> Project:
        """What is drawn."""
        return self._stage.project

    @property
    def problems(self) -> list[str]:
        """Grounds whose textures could not be read."""
        return self._stage.problems

    @property
    def bytes_sent(self) -> int:
        """Bytes of changed rows sent so far."""
        return sum(body.sent for body in self._stage.bodies.values())

    @property
    def marked(self) -> bool:
        """Whether triangles are marked."""
        return self._stage.marks is not None

    def bounds(self) -> Bounds:
        """Extent of all bodies; kept until a shape changes."""
        if self._bounds is None:
            self._bounds = scene_bounds(self.project)
        return self._bounds

    def heights(self, ident: int) -> tuple[float, float] | None:
        """Least and greatest height of a body that is shown, by its own down, metres."""
        return next((body.heights() for body in self._stage.shown() if body.ident == ident), None)

    def mark(self, corners: NDArray[np.float64] | None) -> None:
        """Mark triangles, given by their (K, 3, 3) corners in metres; None for no marks."""
        self._stage.mark(corners)

    def choose(self, faces: NDArray[np.float64], edges: NDArray[np.float64], seams: NDArray[np.float64]) -> None:
        """Show what is chosen: (K, 3, 3) corners of faces, (L, 2, 3) ends of edges; and of seams, metres."""
        self._stage.choose(faces, edges, seams)

    def set_figures(self, ident: int, values: NDArray[np.float32] | None) -> None:
        """A figure of every triangle slot of a body, for the look at them; None for none."""
        body = next((body for body in self._stage.shown() if body.ident == ident), None)
        if body is not None:
            body.faces.set_figures(values)

    def set_waters(self, surfaces: dict[int, WaterSurface]) -> None:
        """Draw waters so, by the number of their object; where someone works on the project, it is for them to find out."""
        self._stage.waters.set(surfaces)

    def show(self, project: Project) -> None:
        """Draw another project from now on."""
        self._stage.show(project)
        self._bounds = None
        self._shadow_stale = True

    def follow(self, change: Change, view: View | None = None, size: tuple[int, int] = (1, 1)) -> Touched | None:
        """Bring the copy up to date with an edit.

        Parameters
        ----------
        change : Change
        view : View, optional
            Of a picture that is to be kept up to date.
        size : tuple of int
            Of that picture.

        Returns
        -------
        Touched or None
            What it changes in the picture; None where that may be all of it, or no view is given.
        """
        extents = {} if view is None else self._before(change, view, size)
        only_rows = self._stage.follow(change)
        if (
            change.bodies
            or change.fields & {"bodies", "light", "body shown", "body strewn"}
            or any(c == "position" for _, c, _ in change.rows)
        ):
            self._bounds = None
            self._shadow_stale = True
        for ident in {ident for ident, *_ in change.rows} & self._stage.bodies.keys():
            # whether a picture is to be kept or not: only pieces that hold what they reach are drawn
            extent = extents.get(ident, Extent(np.eye(4)))
            self._stage.bodies[ident].reached([(c, rows) for i, c, rows in change.rows if i == ident], extent)
        if view is None or not only_rows:
            return None
        out = Touched()
        for ident, extent in extents.items():
            if ident in self._stage.bodies:
                body = self._stage.bodies[ident]
                extent.add(self._moved_props(ident, change))
                part = Part.reached(extent, size)
                place = np.array(body.place(view.anchor))
                out = out.joined(
                    Touched(part.wider(LARGEST, size) if view.vertices_of else part, *(extent.box + place))
                )
        return out

    def _before(self, change: Change, view: View, size: tuple[int, int]) -> dict[int, Extent]:
        # how far what will be overwritten reached, body by body
        extents: dict[int, Extent] = {}
        for ident, column, rows in change.rows:
            body = self._stage.bodies.get(ident)
            if body is None:
                continue
            if ident not in extents:
                extents[ident] = Extent(from_tables(view.matrix(size), body.place(view.anchor)))
            body.was(column, rows, extents[ident])
            if column == "position" and ident in self._stage.props:
                extents[ident].add(self._stage.props[ident].around(rows, self.project.body(ident).vertices.count))
        return extents

    def _moved_props(self, ident: int, change: Change) -> NDArray[np.float32]:
        # places that hold what stands on moved ground, as it stands now
        rows = [rows for i, column, rows in change.rows if i == ident and column == "position"]
        props = self._stage.props.get(ident)
        if props is None or not rows:
            return np.empty((0, 3), np.float32)
        body = self.project.body(ident)
        props.refresh(body, self.project)
        return props.around(np.concatenate(rows), body.vertices.count)

    def view(self, camera: Camera, look: str) -> View:
        """What a picture begun now would be of."""
        bounds = self.bounds()
        # pictures count from a place near what is looked at, so that single precision is enough wherever it lies
        far = max(np.abs(bounds.low).max(), np.abs(bounds.high).max(), np.abs(camera.eye).max()) > FAR
        anchor = np.round(camera.target / STEP) * STEP if far else np.zeros(3)
        if not np.array_equal(anchor, self._anchor):
            self._anchor, self._shadow_stale = anchor, True
        project = self.project
        return View(
            replace(camera, target=camera.target - anchor) if far else camera,
            LOOKS[look], dict(self.look_values[look]), bounds, anchor, self.inside, project.light, project.blend,
            standing(project.objects), self.paper, self.ground, self.vertices_of, self.hatch, self.backs, self.shadows,
            {body.ident: body.grain for body in self._stage.shown()}, self.signs,
        )  # fmt: skip

    def picture(
        self,
        targets: Targets,
        camera: Camera,
        look: str,
        quick: bool = False,
        coarse: bool = False,
        hasty: bool = False,
    ) -> None:
        """Draw a whole picture into `targets.result`; see `steps`."""
        for _ in self.steps(targets, self.view(camera, look), quick, coarse=coarse, hasty=hasty):
            pass

    def made_textures(self) -> Iterator[None]:
        """Make the textures that pictures need which are not hasty, some of the work at a time."""
        yield from self._stage.made_grounds()

    def made_ready(self) -> Iterator[None]:
        """Make what lets pictures be drawn with `coarse`, some of the work at a time; whoever changes a body meanwhile must
        let go of it."""
        for body in self._stage.shown():
            yield from body.made_ready()

    def steps(
        self,
        targets: Targets,
        view: View,
        quick: bool = False,
        bands: int = 1,
        coarse: bool = False,
        hasty: bool = False,
    ) -> Iterator[None]:
        """Draw a picture in pieces: shadow, then the scene in horizontal bands, then the result.

        Parameters
        ----------
        targets : Targets
            Gets the picture in `result` at the end.
        view : View
        quick : bool
            The shadow stays as it was.
        bands : int
        coarse : bool
            Coarser copies of bodies do where their triangles are smaller than pixels.
        hasty : bool
            It is to take less time, and may leave fine detail out.
        """
        stage = self._stage
        if not quick:
            for _ in self._shadow(view):
                if bands > 1:
                    self.context.finish()
                yield
        width, height = targets.size
        part = Part.whole(targets.size)
        whole = Shot(stage, view, targets, part, WHOLE, targets.size, hasty=hasty, coarse=coarse)
        if self._begin(whole) and bands > 1:
            self.context.finish()
            yield
        for band in range(bands):
            low, high = height * band // bands, height * (band + 1) // bands
            self._scene(replace(whole, part=Part(0, low, width, high - low)))
            if bands > 1:
                self.context.finish()
                yield
        draw_result(whole, whole.part)
        yield

    def part(self, targets: Targets, view: View, part: Part) -> Part:
        """Draw a part of a picture anew, as drawing all of it with `quick` would.

        Parameters
        ----------
        targets : Targets
            Holds the picture as it was, drawn of the same view.
        view : View
        part : Part

        Returns
        -------
        Part
            What may have changed on the screen.
        """
        if not part.area:
            return part
        shot = Shot(self._stage, view, targets, part, WHOLE, targets.size)
        self._begin(shot)
        self._scene(shot)
        height = targets.size[1]
        wider = part.wider(int(view.contact_share() * height) + 2 if view.contact else 0, targets.size)
        draw_result(shot, wider)
        return wider.wider(SOFT, targets.size)

    def rough(self, targets: Targets, view: View, touched: Touched, patch: Targets) -> Part:
        """As `part`, with as many pixels as `patch` has, which are stretched over what has changed in the picture."""
        part = touched.part
        if not part.area:
            return part
        width, height = targets.size
        window = (part.x / width, part.y / height, part.width / width, part.height / height)
        shot = Shot(self._stage, view, patch, Part.whole(patch.size), window, targets.size, hasty=True, coarse=True)
        self._begin(shot)
        self._scene(shot)
        draw_result(shot, shot.part)
        draw_stretched(shot, targets, touched)
        return part.wider(SOFT, targets.size)

    def piece(self, targets: Targets, view: View, piece: Part, size: tuple[int, int], linear: bool = False) -> None:
        """Draw a piece of a picture that is too large to be drawn at once; shadows must have been drawn before (`shadow`).

        Parameters
        ----------
        targets : Targets
            Gets the piece: of its size.
        view : View
        piece : Part
            Of the picture; it may reach beyond it.
        size : tuple of int
            Pixels of the whole picture.
        linear : bool
            Whether `targets.linear` gets the piece as well.
        """
        shot = self._piece(targets, view, piece, size)
        draw_result(shot, shot.part)
        if linear:
            draw_result(shot, shot.part, True)

    def figures(self, targets: Targets, view: View, piece: Part, size: tuple[int, int]) -> None:
        """As `piece`, of a look that writes figures: they are left in `targets.scene`."""
        self._piece(targets, view, piece, size)

    def _piece(self, targets: Targets, view: View, piece: Part, size: tuple[int, int]) -> Shot:
        width, height = size
        window = (piece.x / width, piece.y / height, piece.width / width, piece.height / height)
        shot = Shot(self._stage, view, targets, Part.whole(targets.size), window, size)
        self._begin(shot)
        self._scene(shot)
        return shot

    def shadow(self, view: View) -> None:
        """Draw the shadow anew where it is not that of the scene any more."""
        for _ in self._shadow(view):
            pass

    def _shadow(self, view: View) -> Iterator[None]:
        if not view.look.shaded or not view.shadows:
            return
        stage = self._stage
        bounds = Bounds(view.bounds.low - view.anchor, view.bounds.high - view.anchor)
        if self._shadow_stale:
            self._near_of = None
            yield from stage.shadow.draw(
                stage.shown(), bounds, view.light.toward_sun(), view.anchor, stage.props_shown()
            )
            self._shadow_stale = False
        near = view.near_place()
        if near is not None and near != self._near_of:
            where = np.array(near[:3]), near[3]
            yield from stage.near_shadow.draw(
                stage.shown(), bounds, view.light.toward_sun(), view.anchor, stage.props_shown(), where
            )
        self._near_of = near
        stage.near_there = near is not None

    def copy(self, targets: Targets, framebuffer: moderngl.Framebuffer, part: Part | None = None) -> None:
        """Put the last picture, or a part of it, into any framebuffer, stretched to fit, with stair-steps softened."""
        self._screen.put(targets, framebuffer, part)

    def _begin(self, shot: Shot) -> bool:
        # nothing, and the depth of what can have it drawn beforehand; whether there was any
        box = shot.part.box
        shot.targets.scene.clear(0.0, 0.0, 0.0, 0.0, depth=1.0, viewport=box)
        if not shot.view.look.textured or shot.view.inside.section is not None or gathers(shot):
            return False
        draw_depth(shot, [body for body, made in programs_of(shot).items() if has_same_depth(made)])
        return True

    def _scene(self, shot: Shot) -> None:
        self.context.depth_func = "<="  # what is shaded has the depth that was drawn before it
        shot.targets.scene.use()
        shot.targets.scene.scissor = shot.part.box
        for draw in IN_SCENE:
            draw(shot)
        shot.targets.scene.scissor = (0, 0, *shot.targets.size)
