"""The scene renderer: keeps a project's copy on the graphics card and draws pictures of it."""

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import moderngl
import numpy as np
from numpy.typing import NDArray

from hulmo.core.colour import srgb_to_linear
from hulmo.core.edit import Change
from hulmo.core.ground.brushes.tint import TINT
from hulmo.core.ground.ground import LEAST_DEPTH
from hulmo.core.mesh.body import Bounds
from hulmo.core.mesh.origin import FAR
from hulmo.core.project import Project
from hulmo.core.setting import number
from hulmo.render.camera import Camera
from hulmo.render.context import is_software
from hulmo.render.figure import Figure
from hulmo.render.gpu_body import GpuBody
from hulmo.render.ground_textures import MOST_BANKS, GroundTextures, look_again
from hulmo.render.inside import Inside
from hulmo.render.looks import LOOKS, Look, first_values
from hulmo.render.marks import COLOUR, Marks
from hulmo.render.programs import Programs, tell_grounds
from hulmo.render.shaders import set_uniforms
from hulmo.render.shadow import ShadowMap
from hulmo.render.targets import Targets

FIRST_UNIT = 4
"""Texture unit of the first array of ground textures."""

STEP = 1024.0
"""Metres of the raster of places that pictures far from zero count from."""

NOTHING = Bounds(np.array([-5.0, -5.0, -5.0]), np.array([5.0, 5.0, 5.0]))
"""Extent that stands in for a project without bodies."""


def scene_bounds(project: Project) -> Bounds:
    """Extent of all bodies of a project, from their spatial indexes; a cube of 10 m where there are none."""
    boxes = [body.placed(body.index.bounds) for body in project.bodies]
    if not boxes:
        return NOTHING
    low, high = np.min([box[0] for box in boxes], axis=0), np.max([box[1] for box in boxes], axis=0)
    return Bounds(low, high)


@dataclass(frozen=True)
class Paper:
    """Background of the looks without sky: sRGB 0 to 1, upper and lower edge of the picture."""

    high: tuple[float, float, float] = (0.85, 0.86, 0.84)
    low: tuple[float, float, float] = (0.70, 0.72, 0.71)


class Renderer:
    """Draws one project.

    `follow` takes the changes of a history and sends only what they name. `picture` draws at once, `steps` in pieces
    between which the caller can answer the hand.

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
        self._project = project
        self._bodies: dict[int, GpuBody] = {}
        self._grounds: GroundTextures | None = None
        self._programs = Programs(context)
        self._figure: Figure | None = None
        self.vertices_of = 0
        """Number of the body whose vertices are shown as points; 0 for none."""
        self.ground = 0
        """Column of the ground that the look at one ground's weight shows."""
        self._drawn_grounds = project.grounds
        self._shadow: ShadowMap | None = None
        self._shadow_stale = True
        self._bounds: Bounds | None = None
        self.paper = Paper()
        self.look_values = first_values()
        """Settings of every look."""
        self.inside = Inside()
        """Section plane and lamp."""
        self._marks: Marks | None = None
        self._anchor = np.zeros(3)
        self.hatch = waiting
        """Whether guarded surface is hatched."""
        self.backs = waiting
        """Whether back faces are dotted, on bodies that have a border."""
        self.shadows = True
        """Whether anything casts a shadow, and hollows are shaded by what stands around them; neither is delivered."""

    @property
    def project(self) -> Project:
        """What is drawn."""
        return self._project

    @property
    def problems(self) -> list[str]:
        """Grounds whose textures could not be read."""
        return self._textures().problems

    @property
    def bytes_sent(self) -> int:
        """Bytes of changed rows sent so far."""
        return sum(body.sent for body in self._bodies.values())

    def bounds(self) -> Bounds:
        """Extent of all bodies; kept until a shape changes."""
        if self._bounds is None:
            self._bounds = scene_bounds(self._project)
        return self._bounds

    def mark(self, corners: NDArray[np.float64] | None) -> None:
        """Mark triangles, given by their (K, 3, 3) corners in metres; None for no marks."""
        if self._marks is not None:
            self._marks.release()
        self._marks = None if corners is None or not len(corners) else Marks(self.context, corners)

    def _anchored(self, camera: Camera) -> Camera:
        # pictures count from a place near what is looked at, so that single precision is enough wherever it lies
        bounds = self.bounds()
        far = max(np.abs(bounds.low).max(), np.abs(bounds.high).max(), np.abs(camera.eye).max()) > FAR
        anchor = np.round(camera.target / STEP) * STEP if far else np.zeros(3)
        if not np.array_equal(anchor, self._anchor):
            self._anchor, self._shadow_stale = anchor, True
        return replace(camera, target=camera.target - anchor) if far else camera

    def _section(self) -> tuple[float, float, float, float]:
        if self.inside.section is None:
            return 0.0, 0.0, 0.0, 0.0
        x, y, z, away = self.inside.section
        return x, y, z, away - float(self._anchor @ (x, y, z))

    def show(self, project: Project) -> None:
        """Draw another project from now on."""
        self.mark(None)
        for body in self._bodies.values():
            body.release()
        self._bodies.clear()
        if self._grounds is not None:
            self._grounds.release()
            self._grounds = None
        self._project = project
        self._bounds = None
        self._shadow_stale = True

    def follow(self, change: Change) -> None:
        """Bring the copy up to date with an edit."""
        if "bodies" in change.fields:
            known = {body.ident for body in self._project.bodies}
            for ident in set(self._bodies) - known:
                self._bodies.pop(ident).release()
        for ident in change.bodies:
            if ident in self._bodies:
                self._bodies.pop(ident).release()
        for ident, column, rows in change.rows:
            if ident in self._bodies:
                self._bodies[ident].update(column, rows)
        if change.fields & {"grounds", "textures"} and self._grounds is not None:
            if "textures" in change.fields or look_again(self._drawn_grounds, self._project.grounds):
                self._grounds.release()
                self._grounds = None
            else:
                self._grounds.change(self._project.grounds)
        self._drawn_grounds = self._project.grounds
        for ident, column, _ in change.rows:
            if column == TINT and ident in self._bodies and not self._bodies[ident].tinted:
                self._bodies.pop(ident).release()  # its first colour: drawn another way from now on
        if (
            change.bodies
            or change.fields & {"bodies", "light", "body shown"}
            or any(c == "position" for _, c, _ in change.rows)
        ):
            self._bounds = None
            self._shadow_stale = True

    def picture(self, targets: Targets, camera: Camera, look: str, quick: bool = False) -> None:
        """Draw a whole picture into `targets.result`."""
        for _ in self.steps(targets, camera, look, quick, 1):
            pass

    def steps(self, targets: Targets, camera: Camera, look: str, quick: bool = False, bands: int = 1) -> Iterator[None]:
        """Draw a picture in pieces: shadow, then the scene in horizontal bands, then the result.

        Parameters
        ----------
        targets : Targets
            Gets the picture in `result` at the end.
        camera : Camera
        look : str
            A name of `LOOKS`.
        quick : bool
            The shadow stays as it was.
        bands : int
        """
        kind = LOOKS[look]
        camera = self._anchored(camera)
        bodies = self._drawn()
        bounds = self.bounds()
        bounds = Bounds(bounds.low - self._anchor, bounds.high - self._anchor)
        light = self._project.light
        if self._shadow is None:
            self._shadow = ShadowMap(self.context)
        if not quick and kind.shaded and self._shadow_stale:
            self._shadow.draw(bodies, bounds, light.toward_sun(), self._anchor)
            self._shadow_stale = False
            yield
        width, height = targets.size
        banks = len(self._textures().banks) if kind.textured else 0
        scenes = {body: self._programs.scene(kind, body, self._project.grounds, banks) for body in bodies}
        for scene in set(scenes.values()):
            self._scene_uniforms(scene, camera, width / height, kind)
        targets.scene.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
        if kind.textured and self.inside.section is None:
            # what a geometry shader hands on does not have the same depth to the bit
            self._draw_depth(targets, [body for body in bodies if "corner_uv" not in scenes[body]], camera)
            if bands > 1:
                self.context.finish()
                yield
        for band in range(bands):
            low, high = height * band // bands, height * (band + 1) // bands
            self.context.depth_func = "<="  # what is shaded has the depth that was drawn before it
            targets.scene.use()
            targets.scene.scissor = (0, low, width, high - low)
            self._bind(kind)
            self.context.enable_only(moderngl.DEPTH_TEST)
            for body in bodies:
                array = body.array(scenes[body])
                if "corner_uv" in scenes[body]:
                    body.uv().use(3)
                set_uniforms(
                    scenes[body],
                    grain=body.grain,
                    backs=int(self.backs and not body.closed),
                    metres_per_uv=body.metres_per_uv,
                    place=body.place(self._anchor),
                    **self._heights(kind, body),
                )
                array.render(moderngl.TRIANGLES)
            figure = self._project.figure
            if figure is not None and self.inside.shows(np.array(figure)):
                self._draw_figure(camera, width / height, kind)
            if self.vertices_of:
                self._draw_vertices(camera, targets.size)
            if self._marks is not None:
                self._marks.draw(self._mark_program(camera, width / height), self._anchor)
            targets.scene.scissor = (0, 0, width, height)
            if bands > 1:
                self.context.finish()
                yield
        self._resolve(targets, camera, kind)
        yield

    def copy(self, targets: Targets, framebuffer: moderngl.Framebuffer) -> None:
        """Put the last picture into any framebuffer, stretched to fit, with stair-steps softened."""
        copy, array = self._programs.screen("copy", "copy.frag")
        framebuffer.use()
        self.context.enable_only(moderngl.NOTHING)
        targets.result_texture.use(0)
        set_uniforms(copy, picture=0, pixel=(1.0 / targets.size[0], 1.0 / targets.size[1]))
        array.render(moderngl.TRIANGLES, vertices=3)

    def _drawn(self) -> list[GpuBody]:
        for body in self._project.bodies:
            if body.ident not in self._bodies:
                self._bodies[body.ident] = GpuBody(self.context, body)
        return [self._bodies[body.ident] for body in self._project.bodies if body.shown]

    def _textures(self) -> GroundTextures:
        if self._grounds is None:
            project = self._project
            self._grounds = GroundTextures(self.context, project.grounds, project.textures)
        return self._grounds

    def _draw_depth(self, targets: Targets, bodies: list[GpuBody], camera: Camera) -> None:
        # what is hidden behind something else is not shaded: looking up many grounds costs far more than drawing twice
        made = self._programs.named("depth")
        width, height = targets.size
        set_uniforms(made, view_projection=_bytes(camera.view_projection(width / height)))
        targets.depth.use()
        self.context.enable_only(moderngl.DEPTH_TEST)
        for body in bodies:
            set_uniforms(made, place=body.place(self._anchor))
            body.array(made).render(moderngl.TRIANGLES)

    def _draw_figure(self, camera: Camera, aspect: float, look: Look) -> None:
        if self._figure is None:
            self._figure = Figure(self.context)
        made = self._programs.named("figure")
        assert self._project.figure is not None
        set_uniforms(
            made,
            view_projection=_bytes(camera.view_projection(aspect)),
            feet=tuple((np.array(self._project.figure) - self._anchor).tolist()),
            toward_light=self._toward_light(look, camera),
            strength=max(0.12, 0.16 * self._project.light.sun) if look.shaded else 1.0,
        )
        self._figure.draw(made)

    def _draw_vertices(self, camera: Camera, size: tuple[int, int]) -> None:
        body = self._bodies.get(self.vertices_of)
        if body is None:
            return
        made = self._programs.named("vertex")
        set_uniforms(
            made,
            view_projection=_bytes(camera.view_projection(size[0] / size[1])),
            edge_pixels=body.grain / camera.metres_per_pixel(1.0, size[1]),
            sectioned=int(self.inside.section is not None),
            section=self._section(),
            place=body.place(self._anchor),
        )
        self.context.enable_only(moderngl.DEPTH_TEST | moderngl.PROGRAM_POINT_SIZE)
        body.points(made).render(moderngl.POINTS)

    def _mark_program(self, camera: Camera, aspect: float) -> moderngl.Program:
        made = self._programs.named("mark")
        set_uniforms(
            made,
            view_projection=_bytes(camera.view_projection(aspect)),
            colour=COLOUR,
            sectioned=int(self.inside.section is not None),
            section=self._section(),
        )
        return made

    def _scene_uniforms(self, scene: moderngl.Program, camera: Camera, aspect: float, look: Look) -> None:
        assert self._shadow is not None
        light, blend = self._project.light, self._project.blend
        if look.textured or look.weighted:
            tell_grounds(scene, self._textures())
        set_uniforms(
            scene,
            view_projection=_bytes(camera.view_projection(aspect)),
            eye=tuple(camera.eye),
            toward_sun=self._toward_light(look, camera),
            shadows=int(self.shadows and self.look_values[look.name].get("light", "sun") == "sun"),
            hatch=int(self.hatch),
            sectioned=int(self.inside.section is not None),
            section=self._section(),
            lamp=self.inside.lamp,
            lamp_reach=max(self.bounds().radius * 0.5, 1e-3),
            **self._measures(look),
            sun_light=light.sun_light(),
            sky_light=light.sky_light(),
            shadow_matrix=_bytes(self._shadow.matrix),
            shadow_step=(1.0 / self._shadow.texture.size[0], self._shadow.offset),
            shadow_map=0,
            **{f"colour_height_{i}": FIRST_UNIT + 2 * i for i in range(MOST_BANKS)},
            **{f"normal_rough_{i}": FIRST_UNIT + 2 * i + 1 for i in range(MOST_BANKS)},
            corner_uv=3,
            grounds=len(self._project.grounds),
            ground_in_hand=self.ground,
            depth=max(blend.depth, LEAST_DEPTH) if blend.mode == "height" else 0.0,
        )

    def _toward_light(self, look: Look, camera: Camera) -> tuple[float, float, float]:
        values = self.look_values[look.name]
        kind = values.get("light", "sun")
        if kind == "sun":
            return self._project.light.toward_sun()
        bearing, altitude = math.radians(number(values, "bearing")), math.radians(number(values, "altitude"))
        level, high = math.cos(altitude), math.sin(altitude)
        if kind == "fixed":
            return math.sin(bearing) * level, high, -math.cos(bearing) * level
        way = (camera.right * math.sin(bearing) + camera.back * math.cos(bearing)) * level + camera.up * high
        return float(way[0]), float(way[1]), float(way[2])

    def _measures(self, look: Look) -> dict[str, object]:
        values = self.look_values[look.name]
        if not look.measure:
            return {"cavity": number(values, "cavity") / 100.0} if "cavity" in values else {}
        own = number(values, look.settings[0].name) if look.settings else 0.0
        if look.name == "crowd":
            own = float(self._project.blend.together)
        ramp = srgb_to_linear(look.ramp).astype(np.float32)
        return {
            "measure": look.measure,
            "value": own,
            "ramp": ramp.tobytes(),
        }

    def _heights(self, look: Look, body: GpuBody) -> dict[str, object]:
        if not look.measure:
            return {}
        values, bounds, own = self.look_values[look.name], self.bounds(), body.height
        lines = 5.0 * number(values, look.settings[0].name) if look.settings else 0.0
        return {
            "heights": (float(bounds.low[1] - own), float(bounds.high[1] - own)),
            "lift": math.fmod(own, lines) if lines > 0 else 0.0,
        }

    def _bind(self, look: Look) -> None:
        assert self._shadow is not None
        self._shadow.texture.use(0)
        if look.textured:
            for i, (colour, detail) in enumerate(self._textures().banks):
                colour.use(FIRST_UNIT + 2 * i)
                detail.use(FIRST_UNIT + 2 * i + 1)

    def _resolve(self, targets: Targets, camera: Camera, look: Look) -> None:
        contact = look.shaded and self.shadows and self.inside.section is None  # a cap is a plain page
        resolve, array = self._programs.screen(
            "resolve contact" if contact else "resolve", "resolve.frag", CONTACT=contact
        )
        width, height = targets.size
        light = self._project.light
        targets.result.use()
        self.context.enable_only(moderngl.NOTHING)
        targets.colour_texture.use(0)
        targets.depth_texture.use(1)
        set_uniforms(
            resolve,
            colour_map=0,
            depth_map=1,
            inverse_view_projection=_bytes(np.linalg.inv(camera.view_projection(width / height))),
            eye=tuple(camera.eye),
            toward_sun=light.toward_sun(),
            sky_light=light.sky_light(),
            plain_high=self.paper.high,
            plain_low=self.paper.low,
            exposure=light.exposure if look.shaded else 0.0,
            near=camera.near,
            far=camera.far,
            pixel=(1.0 / width, 1.0 / height),
            reach=self.bounds().radius * 0.03,
            sky=int(look.sky),
            tone=1 if look.shaded else 2 if look.plain_figures else 0,
        )
        array.render(moderngl.TRIANGLES, vertices=3)


def _bytes(matrix: np.ndarray) -> bytes:
    return np.ascontiguousarray(matrix.T, np.float32).tobytes()
