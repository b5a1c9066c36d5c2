"""Damaged files of every kind: refused in words, or opened and then saved, opened again, drawn and exported."""

import io
import json
import pathlib
import random
import resource
import tempfile
import time
import traceback
from collections.abc import Callable, Iterator
from typing import Any

import msgspec
import numpy as np
import trimesh
from PIL import Image

from hulmo.core.commands import (
    AddGround,
    AddLayer,
    AddLine,
    AddObject,
    AddProp,
    AddWater,
    ChangeObject,
    Choose,
    ChooseParts,
    ImportBody,
    KeepChoice,
    LayImages,
    LayOnFaces,
    LayRelief,
    LayUv,
    LinePoint,
    MarkVertices,
    SetCrease,
    SetDown,
    SetFacets,
    SetLight,
    SetRules,
    SetSky,
    SetStrewRules,
    Strew,
    SunFromSky,
    UseRules,
)
from hulmo.core.errors import HulmoError
from hulmo.core.ground.rule_sets import read_rule_set, shipped_rule_sets
from hulmo.core.ground.rules import Condition, Rule
from hulmo.core.history import History
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.io.exr import write_exr
from hulmo.core.io.paint_note import PaintNote, read_note
from hulmo.core.io.project_file import open_project, save_project
from hulmo.core.presets import STARTER, read_presets
from hulmo.core.progress import silent
from hulmo.core.project import Project
from hulmo.core.props.strew_rules import StrewRule
from hulmo.core.recipe import read_recipe, run_recipe
from hulmo.core.setting import complete
from hulmo.render.camera import Camera
from hulmo.render.context import headless_context
from hulmo.render.renderer import Renderer
from hulmo.render.targets import Targets
from tests.bodies import project_with, regions, stroke
from tests.fuzz import mutate
from tests.reference.test_sky_picture import rgbe

SLOWEST = 5.0
"""Seconds that a case may take."""

MOST_BYTES = 2 << 30

Damage = Callable[[random.Random, bytes], bytes]


class Files:
    """Makes sound files of every kind, damages them, and tries what became of them.

    Parameters
    ----------
    seed : int
    draw : bool
        Whether what opened is drawn as well.
    """

    def __init__(self, seed: int, draw: bool = True) -> None:
        self.rng = random.Random(seed)
        self._home = tempfile.TemporaryDirectory()
        self.folder = pathlib.Path(self._home.name)
        self.sound: list[tuple[str, str, bytes, Damage]] = list(self._sound())
        self.counts = {"opened": 0, "refused": 0}
        self._renderer: Renderer | None = None
        if draw:
            context = headless_context()
            self._renderer = Renderer(context, Project(), waiting=True)
            self._targets = Targets(context, (48, 32))

    def case(self) -> str | None:
        """One case; what went wrong, or None."""
        kind, name, data, damage = self.rng.choice(self.sound)
        broken = damage(self.rng, data)
        file = self.folder / name
        file.write_bytes(broken)
        began, worked = time.monotonic(), time.process_time()
        problem = None
        try:
            opened = getattr(self, f"_{kind}")(file)
            self.counts["opened" if opened else "refused"] += 1
        except BaseException:
            problem = traceback.format_exc()
        # a machine that others work on as well makes a case long, but not what it does itself
        took = min(time.monotonic() - began, time.process_time() - worked)
        if took > SLOWEST:
            problem = f"{problem or ''}took {took:.1f} s"
        used = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024
        if used > MOST_BYTES:
            problem = f"{problem or ''}the process is {used / 1e9:.1f} GB large"
        if problem is not None:
            kept = pathlib.Path(tempfile.mkdtemp(prefix="hulmo-fuzz-")) / name
            kept.write_bytes(broken)
            problem = f"{kind}: {kept}\n{problem}"
        for left in self.folder.iterdir():
            if left.is_file():
                left.unlink()
        return problem

    # what is done with a file

    def _project(self, file: pathlib.Path) -> bool:
        try:
            project = open_project(file)
        except HulmoError:
            return False
        self._use(project)
        return True

    def _mesh(self, file: pathlib.Path) -> bool:
        history = History(Project())
        try:
            history.do(ImportBody(str(file), parts=("one", "regions", "bodies")[file.stat().st_size % 3]))
        except HulmoError:
            return False
        self._use(history.project)
        return True

    def _image(self, file: pathlib.Path) -> bool:
        history = project_with("sheet")
        done = False
        for command in (
            LayRelief("Body", "image", {"image": str(file), "channel": self.rng.choice(("grey", "red", "alpha"))}),
            AddGround(str(file), "Pictured"),
            LayImages("Body", self.rng.choice(("guard", "tint")), (str(file),), by="above"),
        ):
            try:
                history.do(command)
            except HulmoError:
                continue
            done = True
        if done:
            self._use(history.project)
        return done

    def _sky(self, file: pathlib.Path) -> bool:
        history = project_with("sheet")
        try:
            history.do(SetSky(str(file)))
            history.do(SunFromSky())
        except HulmoError:
            return False
        self._use(history.project)
        return True

    def _note(self, file: pathlib.Path) -> bool:
        history = project_with("sheet")
        Image.new("L", (16, 16), 200).save(self.folder / "Body.guard.png")
        try:
            history.do(LayImages.noted(read_note(file), self.folder))
        except HulmoError:
            return False
        self._use(history.project)
        return True

    def _recipe(self, file: pathlib.Path) -> bool:
        history = History(Project())
        try:
            run_recipe(history, read_recipe(file), "recipe")
        except HulmoError:
            return False
        self._use(history.project)
        return True

    def _rules(self, file: pathlib.Path) -> bool:
        history = project_with("sheet")
        try:
            read_rule_set(file)
            history.do(UseRules("Body", str(file)))
        except HulmoError:
            return False
        self._use(history.project)
        return True

    def _presets(self, file: pathlib.Path) -> bool:
        try:
            found = read_presets(file)
        except HulmoError:
            return False
        for preset in found:
            preset.values()
        return True

    def _use(self, project: Project) -> None:
        out = self.folder / "again.hulmo"
        save_project(project, out)
        again = open_project(out)
        for one, two in zip(project.bodies, again.bodies, strict=True):
            assert one.vertices.live_count == two.vertices.live_count
        if self._renderer is not None:
            self._renderer.show(again)
            self._renderer.picture(
                self._targets, Camera.framing(self._renderer.bounds()), self.rng.choice(("lit", "form"))
            )
        for name, exporter in EXPORTERS.items():
            target = self.folder / f"out.{name}"
            if any(body.shown for body in again.bodies):
                exporter.write(again, target, complete(exporter.settings, {}, "export"), silent())

    # sound files

    def _sound(self) -> Iterator[tuple[str, str, bytes, Damage]]:
        project = self._rich()
        for small in (False, True):
            save_project(project, self.folder / "a.hulmo", small=small)
            for _ in range(3):  # projects are what matters most
                yield "project", "a.hulmo", (self.folder / "a.hulmo").read_bytes(), mutate.damaged_archive
        for name, exporter in EXPORTERS.items():
            exporter.write(project, self.folder / f"a.{name}", complete(exporter.settings, {}, ""), silent())
        yield "mesh", "a.glb", (self.folder / "a.glb").read_bytes(), self._damaged_glb
        yield "mesh", "a.ply", (self.folder / "a.ply").read_bytes(), mutate.damaged_bytes
        yield "mesh", "a.usdc", (self.folder / "a.usdc").read_bytes(), mutate.damaged_bytes
        yield "mesh", "a.usda", (self.folder / "a.usda").read_bytes(), mutate.damaged_text
        ball = trimesh.creation.icosphere(2)
        ball.visual = trimesh.visual.TextureVisuals(uv=np.random.default_rng(1).random((len(ball.vertices), 2)))
        for name in ("obj", "stl", "glb", "ply"):
            made: Any = (
                ball.export(file_type=name) if name != "stl" else trimesh.creation.icosphere(2).export(file_type=name)
            )
            data = made.encode() if isinstance(made, str) else made
            damage = (
                mutate.damaged_text if name == "obj" else self._damaged_glb if name == "glb" else mutate.damaged_bytes
            )
            yield "mesh", f"b.{name}", data, damage
        text: Any = trimesh.creation.box().export(file_type="stl_ascii")
        yield "mesh", "c.stl", text.encode(), mutate.damaged_text
        text = trimesh.creation.box().export(file_type="ply", encoding="ascii")
        yield "mesh", "c.ply", text if isinstance(text, bytes) else text.encode(), mutate.damaged_text
        for ending, mode in (
            ("png", "RGB"),
            ("png", "I;16"),
            ("png", "LA"),
            ("tif", "F"),
            ("tif", "I"),
            ("jpg", "RGB"),
        ):
            stream = io.BytesIO()
            values = np.random.default_rng(2).random((24, 24))
            if mode == "F":
                picture = Image.fromarray(values.astype(np.float32))
            elif mode == "I":
                picture = Image.fromarray((values * 2**31).astype(np.int32))
            elif mode == "I;16":
                picture = Image.fromarray((values * 65535).astype(np.uint16))
            else:
                picture = Image.fromarray((values * 255).astype(np.uint8)).convert(mode)
            picture.save(stream, {"tif": "TIFF", "jpg": "JPEG"}.get(ending, "PNG"))
            yield "image", f"a.{ending}", stream.getvalue(), mutate.damaged_bytes
        for name in ("a.hdr", "a.exr", "b.png"):
            yield "sky", name, self._sky_file(name), mutate.damaged_bytes
        note = PaintNote("Body", "guard", ("Body.guard.png",), by="above", box=(-5.0, -5.0, 10.0))
        yield "note", "n.paint.json", msgspec.json.encode(note), mutate.damaged_json
        yield "recipe", "a.json", json.dumps(RECIPE).encode(), mutate.damaged_json
        rules = pathlib.Path(next(iter(shipped_rule_sets().values()))).read_bytes()
        yield "rules", "r.json", rules, mutate.damaged_json
        yield "presets", "p.json", STARTER.read_bytes(), mutate.damaged_json

    def _sky_file(self, name: str) -> bytes:
        light = np.random.default_rng(8).random((16, 32, 3)).astype(np.float32)
        file = self.folder / name
        if name.endswith("exr"):
            write_exr(file, {channel: light[..., i].astype(np.float16) for i, channel in enumerate("RGB")})
        elif name.endswith("png"):
            Image.fromarray((light * 255).astype(np.uint8)).save(file)
        else:
            file.write_bytes(rgbe(light, True))
        data = file.read_bytes()
        file.unlink()
        return data

    def _damaged_glb(self, rng: random.Random, data: bytes) -> bytes:
        if rng.random() < 0.4:
            return mutate.damaged_bytes(rng, data)
        size = int.from_bytes(data[12:16], "little")
        text = mutate.damaged_json(rng, data[20 : 20 + size])
        text += b" " * (-len(text) % 4)
        rest = data[20 + size :]
        return (
            data[:8]
            + (20 + len(text) + len(rest)).to_bytes(4, "little")
            + len(text).to_bytes(4, "little")
            + data[16:20]
            + text
            + rest
        )

    def _rich(self) -> Project:
        history = project_with("sheet", size=4.0, depth=4.0, edge=0.5)
        do = history.do
        do(LayRelief("Body", "noise", {"height": 0.1}))
        do(AddLayer("Body", "By hand"))
        do(stroke("guard", (1.0, 0, 1.0), radius=1.0))
        do(stroke("tint", (1.0, 0, 1.0), radius=1.0))
        do(stroke("raise", (0.0, 0, 1.0), radius=1.0, build_up="until_reset"))
        do(stroke("lay", (1.0, 0, 1.0), ground="Thrift turf", radius=1.0))
        do(SetRules("Body", (Rule("Shell sand", (Condition("shelter", high=0.5), Condition("slope", high=30.0))),)))
        do(Choose("Body", rows=(1, 2, 3)))
        do(MarkVertices("Body", "A few"))
        moss = self.folder / "moss"
        moss.mkdir()
        Image.new("RGB", (8, 8), (40, 90, 30)).save(moss / "albedo.png")
        do(AddGround(str(moss), "Moss"))
        do(stroke("lay", (0.0, 0, 1.0), ground="Moss", radius=1.0))
        do(LayRelief("Body", "weather", {"steps": 2, "years": 50}))
        do(ChooseParts("Body", "face", "these", these=(3, 4, 5)))
        do(SetFacets("Body"))
        do(LayOnFaces("Body", "Thrift turf"))
        do(KeepChoice("Body", "face", "Three"))
        do(ChooseParts("Body", "edge", "as", source="face"))
        do(SetCrease("Body", 0.5))
        do(SetDown("Body", "centre", (0.0, -3.0, 0.0)))
        way = tuple(LinePoint((x, 0.0, z), x < 0) for x, z in ((-1.2, -1.0), (0.1, -0.6), (1.1, -1.0)))
        carried = {
            "ground": "Shell sand",
            "cut": True,
            "tolerance": 0.05,
            "relief": True,
            "level": "flat",
            "width": 0.5,
        }
        do(AddLine("track", "Body", way, "Path", carried))
        do(AddLine("outline", "Body", way))
        do(AddObject("figure", at=(0.0, 1.0, 0.0)))
        do(AddObject("viewpoint", values={"target": [0.0, 0.0, 0.0]}, at=(3.0, 2.0, 1.0)))
        do(AddObject("lamp", at=(0.0, 1.0, 0.5)))
        do(AddWater("level_water", level=0.0, values={"size": 6.0}))
        do(Strew("Body", ((0.0, 0.0, 0.0),), {"radius": 2.0, "density": 1.0}, {"Tussock": 1.0, "Boulder 3": 1.0}))
        do(SetStrewRules("Body", (StrewRule("A", {"Shrub": 1.0}, {"density": 0.2}, (Condition("slope", high=60.0),)),)))
        do(AddProp("Body", "Small land"))
        do(Strew("Body", ((1.0, 0.0, 0.0),), {"radius": 2.0, "size": 0.05}, {"Small land": 1.0}))
        do(SetLight(sight=50.0, fog_fall=3.0, latitude=50.0, longitude=9.0))
        (self.folder / "sky.exr").write_bytes(self._sky_file("s.exr"))
        do(SetSky(str(self.folder / "sky.exr")))
        (self.folder / "sky.exr").unlink()
        do(LayUv("Body", "box"))
        do(LayUv("Body", "above", into="light"))
        do(ChangeObject(history.project.objects[3].name, parent=history.project.objects[2].name))
        regions(history.project.bodies[0])[3:5] = 2
        (moss / "albedo.png").unlink()
        moss.rmdir()
        return history.project


RECIPE = [
    {"do": "add_body", "form": "icosphere", "settings": {"radius": 2.0, "edge": 0.6}, "name": "Ball", "at": [0, 1, 0]},
    {"do": "stroke", "body": "Ball", "brush": "raise", "samples": [[0, 3, 0], [1, 3, 0, 0, -1, 0, 0.5]],
     "settings": {"radius": 1.0, "height": 0.5, "falloff": "curve", "falloff_curve": [[0, 1], [1, 0]]}},
    {"do": "lay_relief", "body": "Ball", "relief": "noise", "settings": {"size": 1.0, "height": 0.1}, "layer": "Grain"},
    {"do": "change_layer", "body": "Ball", "layer": "Grain", "strength": 0.5},
    {"do": "add_ground", "texture": "", "name": "Plain", "colour": "#aabbcc"},
    {"do": "set_rules", "body": "Ball", "rules": [{"ground": "Plain", "conditions": [{"measure": "slope", "high": 30.0}]}]},
    {"do": "place_body", "body": "Ball", "move": [1, 2, 3], "turn": [10, 20, 30], "scale": [1, 1, 2]},
    {"do": "add_body", "form": "block", "settings": {"size": 2.0, "height": 2.0, "depth": 2.0, "edge": 0.5}, "name": "Rock"},
    {"do": "combine", "body": "Rock", "other": "Ball", "how": "add", "keep": True},
    {"do": "subdivide", "body": "Rock", "smooth": True},
    {"do": "reduce", "body": "Rock", "share": 0.5},
    {"do": "bore", "body": "Rock", "path": [[-3, 1, 0], [3, 1, 0]], "radius": 0.3, "edge": 0.2},
    {"do": "recast", "body": "Rock", "edge": 0.4},
    {"do": "choose", "body": "Rock", "by": "rows", "rows": [1, 2, 3]},
    {"do": "set_weight", "body": "Rock", "ground": "Plain", "share": 0.5},
    {"do": "set_viewpoint", "name": "v", "eye": [5, 5, 5], "target": [0, 0, 0]},
    {"do": "set_light", "bearing": 100, "altitude": 40, "sight": 90, "latitude": 40, "longitude": 9, "day": "2026-03-01"},
    {"do": "add_water", "kind": "level_water", "level": 0.2, "values": {"size": 9, "clear": 2}},
    {"do": "strew", "body": "Rock", "samples": [[0, 2, 0]], "settings": {"radius": 1.0}, "shares": {"Shrub": 1}},
    {"do": "set_strew_rules", "body": "Rock", "rules": [{"name": "A", "shares": {"Scree": 1}, "settings": {"density": 1},
     "conditions": [{"measure": "slope", "high": 30}]}]},
    {"do": "change_strewn", "body": "Rock", "which": [0], "turn": 20, "size": 2},
    {"do": "cure_props", "body": "Rock", "fault": "floats"},
    {"do": "change_prop", "prop": "Shrub", "values": {"foot": 0.1}},
    {"do": "place_figure", "at": [1, 2, 3]},
    {"do": "lay_around", "body": "Rock", "source": "Ball", "height": 3.0, "ragged": 0.2},
    {"do": "lay_uv", "body": "Rock", "way": "cylinder", "unit": 2.0},
    {"do": "change_uv", "body": "Rock", "turn": 20, "scale": [2, 0.5], "mirror": "u"}, {"do": "pack_uv", "body": "Rock"},
    {"do": "change_object", "object": "v", "values": {"frame": "16:9", "locked": True}},
    {"do": "move_object", "object": "v", "place": 0},
    {"do": "add_line", "kind": "track", "body": "Rock", "points": [{"at": [-1, 2, 0]}, {"at": [1, 2, 0.2], "corner": True}],
     "settings": {"width": 0.3, "ground": "Plain", "cut": True, "tolerance": 0.05, "profile": [[0, 0.2], [1, 0.5]]}},
    {"do": "change_line", "line": "Track", "settings": {"relief": True, "rows": "0.1"}},
    {"do": "stand_body", "body": "Rock", "on": "Ball", "lean": 0.3},
    {"do": "duplicate_body", "body": "Rock", "move": [9, 0, 0]}, {"do": "set_name", "name": "Fuzz"},
]  # fmt: skip
