"""What is kept on the graphics card for a project: bodies, ground textures, programs, the shadow, objects and marks."""

from collections.abc import Iterator
from dataclasses import dataclass, field

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.edit import Change
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.layers import look_again
from hulmo.core.objects import KINDS, standing
from hulmo.core.objects.kind import plain_sign
from hulmo.core.project import Project
from hulmo.render.chosen import Chosen
from hulmo.render.gpu_body import GpuBody
from hulmo.render.gpu_props import GpuProps, PropMeshes
from hulmo.render.ground_textures import GroundTextures
from hulmo.render.marks import Marks
from hulmo.render.object_mesh import ObjectMesh
from hulmo.render.programs import Programs
from hulmo.render.shadow import ShadowMap
from hulmo.render.sky_image import SkyImage
from hulmo.render.waters import Waters, moves_waters

ROUGH = 8
"""How many times as wide and high textures are as those that are made first."""


@dataclass(eq=False)
class Stage:
    """The copy that passes draw from; what it holds is made when it is first asked for.

    Attributes
    ----------
    context : moderngl.Context
    project : Project
    programs : Programs
    blocks : bool
        Whether what draws shades blocks of pixels, however little of them a triangle covers.
    bodies : dict of int to GpuBody
    marks : Marks or None
        Triangles that are marked.
    chosen : Chosen or None
        Faces and edges that are chosen.
    """

    context: moderngl.Context
    project: Project
    programs: Programs
    blocks: bool = False
    bodies: dict[int, GpuBody] = field(default_factory=dict)
    marks: Marks | None = None
    chosen: Chosen | None = None
    _grounds: GroundTextures | None = None
    _rough_grounds: GroundTextures | None = None
    _making: tuple[GroundTextures, Iterator[None]] | None = None
    _objects: dict[str, ObjectMesh] = field(default_factory=dict)
    _shadow: ShadowMap | None = None
    _near_shadow: ShadowMap | None = None
    near_there: bool = False
    _sky: SkyImage | None = None

    def __post_init__(self) -> None:
        self.most_targets = int(self.context.info["GL_MAX_DRAW_BUFFERS"])
        """Textures that can be drawn into at once."""
        self._drawn_grounds = self.project.grounds
        self._standing = standing(self.project.objects)
        self.waters = Waters(self.context)
        """Where waters stand."""
        self.props: dict[int, GpuProps] = {}
        """Props by the number of the body that they stand on."""
        self._prop_meshes = PropMeshes(self.context)

    def grounds(self, hasty: bool = False) -> GroundTextures:
        """Textures of the palette; smaller ones where it is to be hasty and the others have not been made yet."""
        if self._grounds is None and hasty:
            if self._rough_grounds is None:
                self._rough_grounds = GroundTextures(self.context, self.project.grounds, self.project.textures, ROUGH)
                for _ in self._rough_grounds.make():
                    pass
            return self._rough_grounds
        for _ in self.made_grounds():
            pass
        assert self._grounds is not None
        return self._grounds

    def made_grounds(self) -> Iterator[None]:
        """Make the textures of the palette, some of the work at a time; whoever lets go of it goes on where it was."""
        if self._grounds is not None:
            return
        if self._making is None:
            textures = GroundTextures(self.context, self.project.grounds, self.project.textures)
            self._making = textures, textures.make()
        making, steps = self._making
        while self._making is not None and self._making[0] is making:  # there may be another palette meanwhile
            try:
                next(steps)
            except StopIteration:
                self._making = None
                self._forget_grounds()
                self._grounds = making
                return
            except Exception:
                self._forget_grounds()
                raise
            yield

    @property
    def problems(self) -> list[str]:
        """Grounds whose textures could not be read, as far as they have been."""
        textures = self._grounds or self._rough_grounds
        return [] if textures is None else textures.problems

    def object_mesh(self, kind: str) -> ObjectMesh:
        """What objects of a kind are drawn as."""
        if kind not in self._objects:
            made = KINDS[kind].mesh() if kind in KINDS else plain_sign()
            self._objects[kind] = ObjectMesh(self.context, made)
        return self._objects[kind]

    @property
    def shadow(self) -> ShadowMap:
        """The sun's shadow."""
        if self._shadow is None:
            self._shadow = ShadowMap(self.context)
        return self._shadow

    @property
    def near_shadow(self) -> ShadowMap:
        """The same, of what lies near the place that is looked at."""
        if self._near_shadow is None:
            self._near_shadow = ShadowMap(self.context)
        return self._near_shadow

    def shown(self) -> list[GpuBody]:
        """Bodies that are to be seen."""
        for body in self.project.bodies:
            if body.ident not in self.bodies:
                self.bodies[body.ident] = GpuBody(self.context, body)
        return [self.bodies[body.ident] for body in self.project.bodies if body.shown]

    @property
    def sky(self) -> SkyImage:
        """The sky."""
        if self._sky is None:
            self._sky = SkyImage(self.context)
        return self._sky

    def props_shown(self) -> list[GpuProps]:
        """Props on the bodies that are to be seen."""
        out = []
        for body in self.project.bodies:
            if not body.shown or body.strewn is None:
                continue
            if body.ident not in self.props:
                self.props[body.ident] = GpuProps(self.context, self._prop_meshes)
            self.props[body.ident].refresh(body, self.project)
            out.append(self.props[body.ident])
        return out

    def mark(self, corners: NDArray[np.float64] | None) -> None:
        """Mark triangles, given by their (K, 3, 3) corners in metres; None for no marks."""
        if self.marks is not None:
            self.marks.release()
        self.marks = None if corners is None or not len(corners) else Marks(self.context, corners)

    def choose(self, faces: NDArray[np.float64], edges: NDArray[np.float64], seams: NDArray[np.float64]) -> None:
        """Show what is chosen: (K, 3, 3) corners of faces, (L, 2, 3) ends of edges; and of seams, metres."""
        if self.chosen is not None:
            self.chosen.release()
        some = len(faces) or len(edges) or len(seams)
        self.chosen = Chosen(self.context, faces, edges, seams) if some else None

    def show(self, project: Project) -> None:
        """Hold another project from now on."""
        self.mark(None)
        self.choose(np.empty((0, 3, 3)), np.empty((0, 2, 3)), np.empty((0, 2, 3)))
        for body in self.bodies.values():
            body.release()
        self.bodies.clear()
        self._forget_grounds()
        self.waters.clear()
        self.props.clear()
        self.project = project
        self._standing = standing(project.objects)

    def follow(self, change: Change) -> bool:
        """Bring the copy up to date with an edit; whether all it did was to send rows of bodies that were there."""
        fields, stood = change.fields, self._standing
        self._standing = standing(self.project.objects)
        if stood == self._standing:  # lines, which are not drawn here
            fields = fields - {"objects"}
        only_rows = not fields and not change.bodies and not change.slots
        for ident in change.bodies:
            self.props.pop(ident, None)
        for ident, column, rows in change.rows:
            if ident in self.props and column in ("position", "normal"):
                self.props[ident].moved(rows)
        if change.fields & {"bodies", "props", "prop_meshes", "body down", "body origin"}:
            self.props.clear()
        if moves_waters(change):
            self.waters.stale = True
        if "bodies" in change.fields:
            known = {body.ident for body in self.project.bodies}
            for ident in set(self.bodies) - known:
                self.bodies.pop(ident).release()
        for ident in change.bodies:
            if ident in self.bodies:
                self.bodies.pop(ident).release()
        for ident, column, rows in change.rows:
            if ident in self.bodies:
                self.bodies[ident].update(column, rows)
        for ident, _, column, _ in change.slots:
            if ident in self.bodies:
                self.bodies[ident].faces.changed(column)
        if change.fields & {"grounds", "textures"}:
            if "textures" in change.fields or look_again(self._drawn_grounds, self.project.grounds):
                self._forget_grounds()
            else:
                for textures in self._textures():
                    textures.change(self.project.grounds)
        self._drawn_grounds = self.project.grounds
        for ident, column, _ in change.rows:
            if column == TINT and ident in self.bodies and not self.bodies[ident].tinted:
                self.bodies.pop(ident).release()  # its first colour: drawn another way from now on
                only_rows = False
        return only_rows

    def _textures(self) -> list[GroundTextures]:
        making = None if self._making is None else self._making[0]
        return [textures for textures in (self._grounds, self._rough_grounds, making) if textures is not None]

    def _forget_grounds(self) -> None:
        for textures in self._textures():
            textures.release()
        self._grounds = self._rough_grounds = self._making = None
