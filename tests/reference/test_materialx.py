"""The MaterialX document: valid by the library, and what its own generator makes of it draws what the canvas draws."""

import dataclasses
import io
import pathlib
import tempfile
import unittest

import MaterialX
import moderngl
import msgspec
import numpy as np
import OpenEXR
from MaterialX import PyMaterialXGenGlsl, PyMaterialXGenShader
from PIL import Image
from pxr import Usd, UsdShade, UsdValidation

from hulmo.core.commands import AddBody, ChangeGround, LayRelief, SetBlend, Stroke
from hulmo.core.history import History
from hulmo.core.io.delivery import deliver
from hulmo.core.io.exporters import exporter_for
from hulmo.core.io.materialx import materialx_document
from hulmo.core.io.materialx_tables import MOST_VALUES, tables_of
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.core.setting import complete
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets

SIZE = (240, 160)
LARGE = (900, 600)
"""So that no image is made smaller: at the rims of pieces a drawer that chooses levels by itself takes too coarse ones."""


def painted() -> History:
    history = History(Project())
    history.do(AddBody("icosphere", {"radius": 4.0, "edge": 0.4}, "Ball"))
    history.do(LayRelief("Ball", "noise", {"height": 0.5}))
    for i, name in enumerate(history.project.ground_names):
        place = ((4.0, 0.0, 0.0), (0.0, 4.0, 0.0), (0.0, 0.0, -4.0), (3.0, 3.0, 0.0))[i]
        history.do(Stroke("Ball", "lay", (place,), {"radius": 4.0, "strength": 70.0}, name))
        values = {"break_up": False, "variation": 0.0, "turn": 25.0 * i, "saturation": 1.0 + 0.2 * i, "contrast": 1.1}
        history.do(ChangeGround(name, values=values))
    history.do(Stroke("Ball", "tint", ((3.0, 1.0, -2.0),), {"radius": 2.5, "colour": "#cc6633", "strength": 60.0}))
    return history


def generated(document: MaterialX.Document) -> tuple[str, str]:
    """Vertex and fragment shader by the library's own generator."""
    maker = PyMaterialXGenGlsl.GlslShaderGenerator.create()
    context = PyMaterialXGenShader.GenContext(maker)
    context.registerSourceCodeSearchPath(MaterialX.getDefaultDataSearchPath())
    maker.registerTypeDefs(document)
    made = maker.generate("blend", document.getNode("Surface"), context)
    return tuple(made.getSourceCode(s) for s in (PyMaterialXGenShader.VERTEX_STAGE, PyMaterialXGenShader.PIXEL_STAGE))


def with_library(document: MaterialX.Document) -> MaterialX.Document:
    library = MaterialX.createDocument()
    MaterialX.loadLibraries(MaterialX.getDefaultDataLibraryFolders(), MaterialX.getDefaultDataSearchPath(), library)
    document.setDataLibrary(library)
    return document


def from_stage(stage: Usd.Stage) -> MaterialX.Document:
    """The graph of a stage as a document, with its base colour as an unlit surface."""
    document = with_library(MaterialX.createDocument())
    document.setColorSpace("lin_rec709")
    graph = document.addNodeGraph("Grounds")
    within = stage.GetPrimAtPath("/Scene/Looks/Blended_grounds/Grounds")
    for prim in within.GetChildren():
        shader = UsdShade.Shader(prim)
        told = document.getNodeDef(shader.GetIdAttr().Get())
        node = graph.addNode(told.getNodeString(), prim.GetName(), told.getActiveOutputs()[0].getType())
        for given in shader.GetInputs():
            kind = told.getActiveInput(given.GetBaseName()).getType()
            entry = node.addInput(given.GetBaseName(), kind)
            sources, _ = given.GetConnectedSources()
            value = given.Get()
            if sources:
                entry.setNodeName(sources[0].source.GetPrim().GetName())
            elif kind == "filename":
                entry.setValueString(value.path.removeprefix("./"))
                entry.setColorSpace(given.GetAttr().GetColorSpace())
            else:
                entry.setValueString(value if kind == "string" else ", ".join(map(str, np.ravel(value).tolist())))
    out = UsdShade.NodeGraph(within).GetOutput("base_color").GetConnectedSources()[0][0]
    graph.addOutput("base_colour", "color3").setNodeName(out.source.GetPrim().GetName())
    entry = document.addNode("surface_unlit", "Surface", "surfaceshader").addInput("emission_color", "color3")
    entry.setNodeGraphString("Grounds")
    entry.setOutputString("base_colour")
    return document


class MaterialXTest(unittest.TestCase):
    def test_documents_are_valid_and_their_shaders_compile(self) -> None:
        history = painted()
        context = headless_context()
        try:
            for mode in ("linear", "height"):
                history.do(SetBlend(mode))
                for surface in ("lit", "unlit"):
                    document, _ = materialx_document(history.project, "images", surface)
                    valid, words = with_library(document).validate()
                    self.assertTrue(valid, words)
                    vertex, fragment = generated(document)
                    if surface == "unlit":
                        context.program(vertex_shader=vertex, fragment_shader=fragment).release()
        finally:
            context.release()

    def test_the_generated_shader_draws_what_the_canvas_draws(self) -> None:
        history = painted()
        for mode in ("linear", "height"):
            history.do(SetBlend(mode, 0.4))
            with self.subTest(mode):
                mine, theirs, there = self.pictures(
                    history.project, *materialx_document(history.project, "images", "unlit")
                )
                off = np.abs(mine[there].astype(float) - theirs[there])
                self.assertGreater(int(there.sum()), 5000)
                self.assertLess(float(off.mean()), 2.0, "of 255")

    def test_broken_up_repeats_and_variation_are_drawn_as_the_canvas_draws_them(self) -> None:
        history = painted()
        for i, name in enumerate(history.project.ground_names):
            values = {"break_up": True, "variation": 0.25, "variation_size": 2.0 + i, "tile": 10.0 + i}
            history.do(ChangeGround(name, values=values))
        for mode in ("linear", "height"):
            history.do(SetBlend(mode, 0.4))
            document, images = materialx_document(history.project, "images", "unlit")
            with self.subTest(mode):
                self.assertTrue(with_library(document).validate()[0], document.validate()[1])
                mine, theirs, there = self.pictures(history.project, document, images, LARGE)
                self.assertLess(float(np.abs(mine[there].astype(float) - theirs[there]).mean()), 2.0, "of 255")
        # without them the pictures are quite different ones
        plain = painted()
        plain.do(SetBlend("height", 0.4))
        mine, _, there = self.pictures(plain.project, *materialx_document(plain.project, "images", "unlit"), LARGE)
        self.assertGreater(float(np.abs(mine[there].astype(float) - theirs[there]).mean()), 6.0, "of 255")

    def test_tables_of_variation_reach_as_far_as_the_body(self) -> None:
        """Values by pcg3d (Jarzynski and Olano 2020) written out again; a deep body has as many cells as it needs."""

        def by_hand(cell: tuple[int, ...]) -> float:
            v = [(1664525 * (c % 2**32) + 1013904223) % 2**32 for c in cell]
            for turn in range(2):
                v[0] = (v[0] + v[1] * v[2]) % 2**32
                v[1] = (v[1] + v[2] * v[0]) % 2**32
                v[2] = (v[2] + v[0] * v[1]) % 2**32
                v = v if turn else [part ^ (part >> 16) for part in v]
            return v[0] / 4294967295.0

        history = painted()
        ground = msgspec.structs.replace(history.project.grounds[0], variation=0.2, variation_size=2.0)
        body = deliver(history.project)[0][0]
        for spans, whole in (((20.0, 200.0, 150.0), True), ((20.0, 20_000.0, 20_000.0), False)):
            ends = np.array([(-3.0, -7.0, 1.0), np.array((-3.0, -7.0, 1.0)) + spans], np.float32)
            table = tables_of([dataclasses.replace(body, position=ends)], [ground], {}, "t")
            assert table.values is not None
            low, count = table.values.low, table.values.count
            reached = tuple(int(np.floor(end / 2.0)) for end in ends[1])
            self.assertEqual(low, tuple(int(np.floor(end / 2.0)) for end in ends[0]))
            self.assertEqual(all(r < at + n for r, at, n in zip(reached, low, count, strict=True)), whole)
            self.assertLessEqual(np.prod(count), MOST_VALUES)
            with tempfile.TemporaryDirectory() as folder:
                path = pathlib.Path(folder) / "table.exr"
                path.write_bytes(table.images[table.values.file])
                pixels = OpenEXR.File(str(path), separate_channels=True).channels()["R"].pixels
            self.assertEqual(pixels.shape, (count[1] * count[2], count[0]))
            for x, y, z in ((0, 0, 0), (count[0] - 1, count[1] - 1, count[2] - 1), (3, 5, 7)):
                cell = (low[0] + x, low[1] + y, low[2] + z)
                self.assertAlmostEqual(float(pixels[z * count[1] + y, x]), by_hand(cell), places=6)

    def test_the_graph_in_a_stage_is_the_same_blend(self) -> None:
        # every node by the library's own definitions; put together again from the stage alone, it draws the same
        for broken in (False, True):
            history = painted()
            names = history.project.ground_names
            for name in names[2:]:  # so that a shader has texture units enough
                history.do(ChangeGround(name, values={"plain": ["roughness", "height"]}))
            if broken:
                for name in names:
                    plain = ["roughness", "height"] if name == names[0] else ["albedo", "roughness", "height", "normal"]
                    history.do(ChangeGround(name, values={"plain": plain, "colour": "#7a6a55"}))
                values = {"break_up": True, "variation": 0.25, "variation_size": 2.0, "tile": 10.0}
                history.do(ChangeGround(names[0], values=values))
            history.do(SetBlend("height", 0.4))
            with self.subTest(broken):
                self.stage_draws(history)

    def stage_draws(self, history: History) -> None:
        _, images = materialx_document(history.project, "land.textures")
        with tempfile.TemporaryDirectory() as name:
            path = pathlib.Path(name) / "land.usda"
            exporter = exporter_for(path)
            exporter.write(history.project, path, complete(exporter.settings, {"blend": True}, "test"), silent())
            stage = Usd.Stage.Open(str(path))
            every = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
            found = UsdValidation.ValidationContext(every).Validate(stage)
            # the registry that comes with the library knows no MaterialX at all
            self.assertEqual({error.GetName() for error in found}, {"MissingShaderIdInRegistry"})
            document = from_stage(stage)
        self.assertTrue(document.validate()[0], document.validate()[1])
        mine, theirs, there = self.pictures(history.project, document, images, LARGE)
        off = np.abs(mine[there].astype(float) - theirs[there])
        self.assertGreater(int(there.sum()), 5000)
        self.assertLess(float(off.mean()), 2.0, "of 255")

    def pictures(
        self, project: Project, document: MaterialX.Document, images: dict[str, bytes], size: tuple[int, int] = SIZE
    ) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        vertex, fragment = generated(with_library(document))
        context = headless_context()
        try:
            renderer, targets = Renderer(context, project), Targets(context, size)
            camera = Camera(np.zeros(3), 16.0, 2.0, 0.5, 40.0).clipped(renderer.bounds())
            renderer.picture(targets, camera, "ground")
            mine = targets.pixels()[..., :3].copy()
            program = context.program(vertex_shader=vertex, fragment_shader=fragment)
            frame = context.framebuffer([context.texture(size, 4, dtype="f4")], context.depth_renderbuffer(size))
            frame.use()
            frame.clear(0.0, 0.0, 0.0, 0.0, depth=1.0)
            context.enable_only(moderngl.DEPTH_TEST)
            unit = 0
            for node in document.getNodeGraph("Grounds").getNodes():
                for file in (node.getInput("file"), node.getInput("table")):
                    name = "" if file is None else f"{node.getName()}_{file.getName()}"
                    if file is None or name not in program:
                        continue
                    texture = self.texture(context, file.getValueString(), images, file.getColorSpace())
                    texture.use(unit)
                    program[name].value = unit
                    unit += 1
            bodies, used = deliver(project)
            body = bodies[0]
            columns = {"i_position": body.position, "i_normal": body.normal}
            for i in range(len(used)):
                columns[f"i_geomprop_ground_{i}"] = body.weights()[:, i : i + 1] / np.float32(65535)
            assert body.tint is not None
            columns |= {"i_geomprop_tint": body.tint[:, :3], "i_geomprop_tint_cover": body.tint[:, 3:]}
            content = [
                (context.buffer(np.ascontiguousarray(values, np.float32).tobytes()), f"{values.shape[1]}f4", name)
                for name, values in columns.items()
                if name in program
            ]
            program["u_viewProjectionMatrix"].write(
                camera.view_projection(size[0] / size[1]).T.astype(np.float32).tobytes()
            )
            context.vertex_array(program, content, context.buffer(body.triangles.tobytes())).render()
            found = np.frombuffer(frame.read(components=4, dtype="f4"), np.float32).reshape(size[1], size[0], 4)[::-1]
        finally:
            context.release()
        linear = np.clip(found[..., :3], 0.0, 1.0)
        shown = np.where(linear <= 0.0031308, linear * 12.92, 1.055 * linear ** (1 / 2.4) - 0.055)
        return mine, shown * 255, found[..., 3] > 0.5

    def texture(self, context: moderngl.Context, name: str, images: dict[str, bytes], space: str) -> moderngl.Texture:
        data = images[name]
        if name.endswith(".exr"):  # by the library of the format's makers
            with tempfile.NamedTemporaryFile(suffix=".exr") as file:
                file.write(data)
                file.flush()
                with OpenEXR.File(file.name, separate_channels=True) as picture:
                    channels = picture.channels()
                    values = np.stack([channels[k].pixels for k in "RGB"], axis=-1)
        else:
            values = np.asarray(Image.open(io.BytesIO(data)).convert("RGB"), np.float32) / 255
        if space == "srgb_texture":  # IEC 61966-2-1
            values = np.where(values <= 0.04045, values / 12.92, ((values + 0.055) / 1.055) ** 2.4)
        pixels = np.ascontiguousarray(values[::-1], np.float32)  # the first row is the lowest there
        texture = context.texture((pixels.shape[1], pixels.shape[0]), 3, pixels.tobytes(), dtype="f4")
        if name.endswith(".exr"):
            texture.filter = (moderngl.NEAREST, moderngl.NEAREST)
        else:
            texture.build_mipmaps()
            texture.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
        return texture

    def test_it_is_written_with_its_images(self) -> None:
        history = painted()
        with tempfile.TemporaryDirectory() as name:
            path = pathlib.Path(name) / "land.mtlx"
            exporter = exporter_for(path)
            exporter.write(history.project, path, complete(exporter.settings, {}, "test"), silent())
            document = MaterialX.createDocument()
            MaterialX.readFromXmlFile(document, str(path))
            files = [node.getInput("file").getValueString() for node in document.getNodeGraph("Grounds").getNodes()
                     if node.getInput("file") is not None]  # fmt: skip
            self.assertTrue(files)
            for file in files:
                self.assertTrue((path.parent / file).is_file())


if __name__ == "__main__":
    unittest.main()
