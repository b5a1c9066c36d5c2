"""USD files against the library's own validation registry, read by it apart from our reader, and round trips."""

import json
import math
import pathlib
import tempfile
import unittest
import zipfile

import numpy as np
from pxr import Usd, UsdGeom, UsdLux, UsdShade, UsdValidation

from hulmo.core.commands import (
    AddBody,
    AddGround,
    ImportBody,
    SetViewpoint,
    Strew,
    Stroke,
    UnwrapUv,
)
from hulmo.core.deliver.profile import Profile
from hulmo.core.deliver.write import deliver_to
from hulmo.core.errors import HulmoError
from hulmo.core.history import History
from hulmo.core.io.delivery import deliver
from hulmo.core.io.exporters import exporter_for
from hulmo.core.io.read_usd import read_usd
from hulmo.core.mesh.strewn import frames
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.core.setting import complete


def faults(stage: Usd.Stage) -> list[str]:
    """What the validators that come with the library find."""
    every = UsdValidation.ValidationRegistry().GetOrLoadAllValidators()
    return [str(error.GetMessage()) for error in UsdValidation.ValidationContext(every).Validate(stage)]


class UsdTest(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = pathlib.Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.history = History(Project())
        self.history.do(AddBody("icosphere", {"radius": 3.0, "edge": 0.6}, "The ball"))
        self.history.do(UnwrapUv("The ball", size=256))
        self.history.do(AddBody("sheet", {"size": 9.0, "depth": 9.0, "edge": 1.0}, "Far", (5e5, 2.0, -7e5)))
        self.history.do(Stroke("The ball", "lay", ((3.0, 0.0, 0.0),), {"radius": 2.0}, "Thrift turf"))
        self.history.do(Stroke("The ball", "tint", ((0.0, 3.0, 0.0),), {"radius": 2.0, "colour": "#aa3311"}))
        self.history.do(AddGround("", "Plain", colour="#445566"))
        self.history.do(Strew("The ball", ((0.0, 3.0, 0.0),), {"radius": 2.0}, {"Boulder 1": 1.0, "Shrub": 1.0}))
        self.history.do(SetViewpoint("Over it", (0.0, 8.0, 12.0), (0.0, 0.0, 0.0), 40.0))

    def write(self, name: str, **given: str) -> pathlib.Path:
        path = self.folder / name
        exporter = exporter_for(path)
        exporter.write(self.history.project, path, complete(exporter.settings, given, "test"), silent())
        return path

    def test_every_kind_passes_the_validators_and_says_the_same(self) -> None:
        bodies, used = deliver(self.history.project)
        for kind in ("usdc", "usda", "usdz"):
            stage = Usd.Stage.Open(str(self.write(f"a.{kind}")))
            self.assertEqual(faults(stage), [], kind)
            self.assertEqual((UsdGeom.GetStageUpAxis(stage), UsdGeom.GetStageMetersPerUnit(stage)), ("Y", 1.0))
            mesh = UsdGeom.Mesh(stage.GetPrimAtPath("/Scene/The_ball"))
            np.testing.assert_array_equal(np.array(mesh.GetPointsAttr().Get()), bodies[0].position)
            np.testing.assert_array_equal(
                np.array(mesh.GetFaceVertexIndicesAttr().Get()).reshape(-1, 3), bodies[0].triangles
            )
            api = UsdGeom.PrimvarsAPI(mesh)
            shares = np.stack([np.array(api.GetPrimvar(f"ground_{i}").Get()) for i in range(len(used))], axis=1)
            np.testing.assert_allclose(shares.sum(axis=1), 1.0, atol=1e-6)
            np.testing.assert_array_equal(shares, bodies[0].weights()[:, : len(used)] / np.float32(65535))
            st = np.array(api.GetPrimvar("st").Get())
            assert bodies[0].uv is not None
            np.testing.assert_allclose(st, bodies[0].uv * (1, -1) + (0, 1), atol=1e-6)
            material, _ = UsdShade.MaterialBindingAPI(mesh).ComputeBoundMaterial()
            self.assertEqual(material.GetPath(), "/Scene/Looks/Blended_grounds")
            far = UsdGeom.Mesh(stage.GetPrimAtPath("/Scene/Far"))
            moved = np.array(UsdGeom.XformCache().GetLocalToWorldTransform(far.GetPrim()))[3, :3]
            np.testing.assert_array_equal(moved, self.history.project.bodies[1].origin)

    def test_what_dresses_the_scene_is_where_it_is(self) -> None:
        project = self.history.project
        stage = Usd.Stage.Open(str(self.write("a.usdc")))
        instancer = UsdGeom.PointInstancer(stage.GetPrimAtPath("/Scene/Props_on_The_ball"))
        matrices = np.array(instancer.ComputeInstanceTransformsAtTime(0.0, 0.0))
        body = project.bodies[0]
        assert body.strewn is not None
        pivot, wanted = frames(body, body.strewn.taken(body.strewn.there))
        base = np.array(UsdGeom.XformCache().GetLocalToWorldTransform(instancer.GetPrim()))
        found = matrices @ base
        np.testing.assert_allclose(found[:, 3, :3], body.placed(pivot), atol=1e-3)
        np.testing.assert_allclose(found[:, :3, :3].transpose(0, 2, 1), wanted, atol=3e-3)  # halves hold three digits
        sun = UsdLux.DistantLight(stage.GetPrimAtPath("/Scene/Sun"))
        shines = np.array(UsdGeom.XformCache().GetLocalToWorldTransform(sun.GetPrim()))[:3, :3].T @ (0, 0, -1)
        np.testing.assert_allclose(shines, -np.array(project.light.toward_sun()), atol=1e-5)
        camera = UsdGeom.Camera(stage.GetPrimAtPath("/Scene/Over_it")).GetCamera(0.0)
        self.assertAlmostEqual(camera.GetFieldOfView(camera.FOVVertical), 40.0, places=3)
        frustum = camera.frustum
        np.testing.assert_allclose(np.array(frustum.GetPosition()), (0.0, 8.0, 12.0), atol=1e-6)
        way = np.array(frustum.ComputeViewDirection())
        np.testing.assert_allclose(way, -np.array((0.0, 8.0, 12.0)) / math.hypot(8.0, 12.0), atol=1e-6)

    def test_a_delivery_is_put_together_with_a_variant_for_every_level(self) -> None:
        profile = Profile(
            "P", format="usdc", files="many", levels=(0.4,), collision=60, settings={"up": "z", "unit": "cm"}
        )
        done = deliver_to(self.history.project, profile, self.folder, silent())
        self.assertIn("Untitled.assembly.usda", done.files)
        self.assertTrue(any(name.startswith("textures/") for name in done.files))
        stage = Usd.Stage.Open(str(self.folder / "Untitled.assembly.usda"))
        self.assertEqual(faults(stage), [])
        told = json.loads((self.folder / "manifest.json").read_text())["pieces"][0]
        prim = stage.GetPrimAtPath("/Scene/The_ball")
        levels = prim.GetVariantSets().GetVariantSet("level")
        self.assertEqual(levels.GetVariantNames(), ["level0", "level1"])
        for name, level in zip(levels.GetVariantNames(), told["levels"], strict=True):
            levels.SetVariantSelection(name)
            meshes = [UsdGeom.Mesh(under) for under in Usd.PrimRange(prim) if under.IsA(UsdGeom.Mesh)]
            self.assertEqual([len(mesh.GetFaceVertexCountsAttr().Get()) for mesh in meshes], [level["triangles"]])
            self.assertEqual(prim.GetCustomDataByKey("hulmo:from"), level["from"])
            box = UsdGeom.BBoxCache(0.0, ["default"]).ComputeWorldBound(prim).ComputeAlignedRange()
            np.testing.assert_allclose((box.GetMin(), box.GetMax()), ((-300,) * 3, (300,) * 3), atol=60)
        solid = UsdGeom.Imageable(stage.GetPrimAtPath("/Scene/The_ball_collision"))
        self.assertEqual(solid.ComputePurpose(), "guide")

    def test_axes_and_units(self) -> None:
        """By hand: a point 1 m east, 2 m up, 3 m south is (100, -300, 200) in centimetres with Z up."""
        stage = Usd.Stage.Open(str(self.write("z.usda", up="z", unit="cm")))
        self.assertEqual(UsdGeom.GetStageUpAxis(stage), "Z")
        self.assertAlmostEqual(UsdGeom.GetStageMetersPerUnit(stage), 0.01)
        matrix = np.array(UsdGeom.XformCache().GetLocalToWorldTransform(stage.GetPrimAtPath("/Scene/The_ball")))
        np.testing.assert_allclose(np.array([1.0, 2.0, 3.0, 1.0]) @ matrix, (100.0, -300.0, 200.0, 1.0), atol=1e-6)
        self.assertEqual(faults(stage), [])

    def test_it_comes_back_as_it_went(self) -> None:
        bodies, used = deliver(self.history.project)
        for name, given in (("a.usdc", {}), ("b.usda", {"up": "z", "unit": "ft"}), ("c.usdz", {"unit": "mm"})):
            with self.subTest(name):
                path = self.write(name, **given)
                read = read_usd(path)
                self.assertEqual([part.name for part in read.parts], ["The ball", "Far"])
                self.assertEqual([ground.name for ground in read.grounds], [
                    self.history.project.grounds[column].name for column in used
                ])  # fmt: skip
                for part, body in zip(read.parts, bodies, strict=True):
                    np.testing.assert_allclose(
                        part.position, body.position + np.array(body.origin), rtol=1e-6, atol=2e-6
                    )
                    assert part.weights is not None
                    np.testing.assert_allclose(part.weights, body.weights()[:, : len(used)] / 65535, atol=1e-7)
                assert read.parts[0].uv is not None and bodies[0].uv is not None and read.parts[0].tint is not None
                np.testing.assert_allclose(read.parts[0].uv, bodies[0].uv[bodies[0].triangles], atol=1e-6)
                np.testing.assert_allclose(read.parts[0].tint, bodies[0].tint, atol=1e-6)
                history = History(Project())
                history.do(ImportBody(str(path), parts="bodies"))
                ball = history.project.bodies[0]
                self.assertEqual(ball.corners.live_count, self.history.project.bodies[0].corners.live_count)
        with zipfile.ZipFile(self.folder / "c.usdz") as package:
            self.assertTrue(any(name.startswith("textures/") for name in package.namelist()))

    def test_stages_from_elsewhere(self) -> None:
        """Polygons, left-handed faces, colours by face, transforms, a mesh in a group: by hand."""
        path = self.folder / "made.usda"
        stage = Usd.Stage.CreateNew(str(path))
        UsdGeom.SetStageUpAxis(stage, "Z")
        UsdGeom.SetStageMetersPerUnit(stage, 0.01)
        group = UsdGeom.Xform.Define(stage, "/Group")
        group.AddTranslateOp().Set((100.0, 200.0, 300.0))
        mesh = UsdGeom.Mesh.Define(stage, "/Group/Quad")
        mesh.CreatePointsAttr([(0, 0, 0), (100, 0, 0), (100, 100, 0), (0, 100, 0), (50, 150, 0)])
        mesh.CreateFaceVertexCountsAttr([4, 3])
        mesh.CreateFaceVertexIndicesAttr([0, 3, 2, 1, 3, 4, 2])
        mesh.CreateOrientationAttr("leftHanded")
        mesh.CreateDisplayColorPrimvar("uniform").Set([(1, 0, 0), (0, 1, 0)])
        stage.GetRootLayer().Save()
        read = read_usd(path)
        part = read.parts[0]
        self.assertEqual((part.triangles.shape, read.grounds), ((3, 3), []))
        np.testing.assert_allclose(part.position[0], (1.0, 3.0, -2.0))  # 1 m east, 2 m north, 3 m up
        corner = part.position[part.triangles]
        normal = np.cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0])
        self.assertTrue((normal[:, 1] > 0).all(), "up, once it is right-handed")
        assert part.colour is not None
        np.testing.assert_allclose(part.colour[4], (0.0, 1.0, 0.0, 1.0))

    def test_what_cannot_be_read_is_said(self) -> None:
        path = self.write("a.usdc")
        data = path.read_bytes()
        for name, broken in (
            ("cut.usdc", data[: len(data) // 2]), ("empty.usdc", b""), ("text.usda", b"#usda 1.0\ndef Mesh {"),
            ("none.usdz", b"PK\x03\x04none"), ("noise.usd", bytes(range(256)) * 20),
        ):  # fmt: skip
            (self.folder / name).write_bytes(broken)
            with self.subTest(name), self.assertRaisesRegex(HulmoError, name):
                history = History(Project())
                history.do(ImportBody(str(self.folder / name)))
        (self.folder / "bare.usda").write_text("#usda 1.0\n")
        with self.assertRaisesRegex(HulmoError, "no mesh"):
            read_usd(self.folder / "bare.usda")
        blocked = self.folder / "x.textures"
        blocked.write_text("in the way")
        with self.assertRaisesRegex(HulmoError, "x.textures"):
            self.write("x.usdc")
        self.assertFalse((self.folder / "x.usdc").exists(), "nothing half-written")
        stage = Usd.Stage.Open(str(path))
        note = json.loads(stage.GetRootLayer().customLayerData["hulmo"])
        self.assertEqual(note["blend"]["mode"], self.history.project.blend.mode)


if __name__ == "__main__":
    unittest.main()
