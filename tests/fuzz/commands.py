"""Random commands over the whole registry, sensible and not, undone and redone to the same bytes."""

import math
import random
import time
import traceback
import typing
from typing import Any

import msgspec
import numpy as np

from hulmo.core.brushes import BRUSHES
from hulmo.core.care import CHECKS
from hulmo.core.commands import COMMANDS, AddBody, ChooseParts, Command, ImportBody, LinePoint, StitchBorders
from hulmo.core.commands.by_hand import INTO
from hulmo.core.commands.choose_parts import BY
from hulmo.core.commands.extrude import ALONGS
from hulmo.core.commands.uv_seams import LOOSE, SEAMS_BY
from hulmo.core.errors import Cancelled, HulmoError
from hulmo.core.grey_image import FOLDER
from hulmo.core.ground.library import shipped
from hulmo.core.ground.measures import MEASURES
from hulmo.core.ground.rule_sets import shipped_rule_sets
from hulmo.core.ground.rules import JOINS, Condition, Rule
from hulmo.core.history import History
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import derived
from hulmo.core.mesh.strewn import LAYOUT
from hulmo.core.objects.line import SETTINGS as LINE_SETTINGS
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.props.faults import KINDS as FAULTS
from hulmo.core.props.strew import HOW
from hulmo.core.props.strew import SETTINGS as STREW
from hulmo.core.props.strew_rules import StrewRule
from hulmo.core.relief import RELIEFS
from hulmo.core.setting import Choice, Colour, Curve, Number, Switch
from hulmo.core.sound import check_project
from hulmo.core.uv import PROJECTIONS
from hulmo.core.uv.flatten import KEEP

PATIENCE = 20.0
"""Seconds after which a command is stopped, as somebody at the window would."""

MOST_VERTICES = 1_500

DOMAINS = ("vertex", "edge", "face")

WORDS: dict[str, tuple[str, ...]] = {
    "form": ("sheet", "disc", "column", "icosphere", "box_sphere", "block"),
    "how": ("add", "cut", "common", "surface", "volume", ""),
    "part": ("all", "chosen", "connected", "marked"),
    "axis": ("x", "y", "z"),
    "mode": ("linear", "height"),
    "source": ("slope", "height", "ridge", "hollow", "ground", "chosen"),
    "by": ("rows", "row", "path", "where", "marked", "all", "none", "invert", "grow", "shrink", "connected"),
    "way": ("set", "add", "take", "invert", "grow", "shrink", "soften", "clear", "all"),
    "check": tuple(CHECKS),
    "set": tuple(shipped_rule_sets()),
    "texture": ("", *shipped()),
    "colour": ("#123456", "#ffffff"),
    "tint": ("#ffffff", "#aabbcc"),
    "image": ("crater", "crack"),
    "kind": ("figure", "viewpoint", "lamp", "level_water", "pond", "level", "centre", "way"),
    "domain": DOMAINS,
    "about": ("middle", "place", "each"),
    "frame": ("world", "normal", "axes"),
    "mirror": ("none", "x", "z"),
    "over": ("surface", "space"),
    "along": ALONGS,
}

DRESSING = (
    "AddProp", "Strew", "ChangeStrewn", "SetStrewRules", "ChangeProp", "RemoveProp", "AddWater", "SetLight", "BankUp",
    "SinkRim", "LayAround", "SetViewpoint", "FitToViews",
)  # fmt: skip

UV_COMMANDS = (
    "LayUv", "UnwrapUv", "ChangeUv", "PackUv", "RemoveUv", "UnwrapAlongSeams", "RelaxUv", "StraightenUv", "StackUv",
    "TurnBackUv",
)  # fmt: skip

IMAGE = str(FOLDER / "ripple.png")

OWN_WORDS: dict[tuple[str, str], tuple[str, ...]] = {
    ("ChooseParts", "by"): BY,
    ("ChooseParts", "way"): ("set", "add", "take"),
    ("ChooseParts", "source"): DOMAINS,
    ("EvenChosen", "into"): INTO,
    ("AddLine", "kind"): ("outline", "track"),
    ("KeepChoice", "name"): ("One", "Two"),
    ("AddWater", "kind"): ("level_water", "pond", "pond"),
    ("AddProp", "source"): ("shrub", "slab_1", "Body", "nowhere.glb"),
    ("CureProps", "fault"): tuple(FAULTS),
    ("FitToViews", "way"): ("refine", "thin_out"),
    ("LayImages", "into"): ("", "light"),
    ("LayImages", "what"): ("guard", "grounds", "tint", "relief", "x"),
    ("LayImages", "by"): ("uv", "above", "above"),
    ("LayImages", "files"): ((IMAGE,), (IMAGE,), (IMAGE, IMAGE), (), ("nowhere.png",)),
    ("LayImages", "box"): ((0.0, 0.0, 0.0), (-4.0, -4.0, 8.0), (1e9, 0.0, 1.0)),
    ("LayImages", "low"): (-1.0, 0.0),
    ("LayImages", "high"): (1.0, 0.2),
    ("SetSky", "file"): ("", "nowhere.hdr"),
    ("LayUv", "way"): tuple(PROJECTIONS),
    ("LayUv", "unit"): (0.0, 1.0, 2.5, -1.0),
    ("ChangeUv", "turn"): (0.0, 90.0, 33.0),
    ("ChangeUv", "scale"): ((1.0, 1.0), (2.0, 0.5), (-1.0, 1.0), (0.0, 1.0), (1e30, 1.0)),
    ("ChangeUv", "move"): ((0.0, 0.0), (0.3, -2.0), (1e9, 0.0)),
    ("ChangeUv", "about"): ((0.5, 0.5), (0.0, 0.0)),
    ("ChangeUv", "mirror"): ("", "u", "v", "w"),
    **{(name, "faces"): ("all", "chosen") for name in ("LayUv", "UnwrapUv", "UnwrapAlongSeams")},
    ("ChangeUv", "faces"): ("all", "chosen", "charts", "edges", "vertices"),
    ("RelaxUv", "faces"): LOOSE,
    ("RelaxUv", "limit"): (1.1, 1.5, 0.0),
    ("MarkSeams", "by"): SEAMS_BY,
    ("MarkSeams", "name"): ("", "light", "none"),
    ("MarkSeams", "angle"): (10.0, 30.0, 60.0),
    ("UnwrapAlongSeams", "keep"): KEEP,
    ("StraightenUv", "along"): ("nearest", "across", "down", "ends"),
    **{(name, "of"): ("surface", "form") for name in ("LayUv", "UnwrapUv", "UnwrapAlongSeams", "RelaxUv")},
    **{(name, "into"): ("", "", "light") for name in UV_COMMANDS},
    **{(name, "size"): (64, 256, 5) for name in ("UnwrapUv", "PackUv", "UnwrapAlongSeams")},
    **{(name, "margin"): (0, 2, 90) for name in ("UnwrapUv", "PackUv", "UnwrapAlongSeams")},
}
"""By command and field, where other fields of the name want other words."""


class Commands:
    """Does random things to a small project and watches that nothing breaks."""

    def __init__(self, seed: int) -> None:
        self.rng = random.Random(seed)
        self.history = History(Project(), memory_cap=40_000_000)
        self.counts = {"done": 0, "refused": 0, "stopped": 0, "forgotten": 0}
        self._begin()

    def _begin(self) -> None:
        self.history = History(Project(), memory_cap=40_000_000)
        if self.rng.random() < 0.35:  # neighbours
            for name, x in (("Body", -4.0), ("Next", 4.0)):
                self.history.do(AddBody("sheet", {"edge": 1.6, "size": 8.0, "depth": 8.0}, name, (x, 0.0, 0.0)))
            self.history.do(StitchBorders())
        else:
            form = self.rng.choice(WORDS["form"][:6])
            size = {"radius": 4.0} if form not in ("sheet", "block") else {"size": 8.0}
            self.history.do(AddBody(form, {"edge": 1.6, **size}, "Body"))
        self.first = state(self.history.project)
        self.base = len(self.history.commands)
        self.begun = self.history.commands[0]

    def round(self, steps: int) -> str | None:
        """Some random steps, then all of them undone and done again; what went wrong, or None."""
        command: Any = None
        try:
            for _ in range(steps):
                roll = self.rng.random()
                if roll < 0.06:
                    command = "undo"
                    if len(self.history.commands) > self.base:
                        self.history.undo()
                elif roll < 0.1:
                    command = "redo"
                    self.history.redo()
                else:
                    command = self.command()
                    before = None if self.rng.random() < 0.9 else state(self.history.project)
                    try:
                        self.history.do_if_any(command, _patient())
                        self.counts["done"] += 1
                    except HulmoError as error:
                        self.counts["stopped" if isinstance(error, Cancelled) else "refused"] += 1
                        if before is not None and state(self.history.project) != before:
                            return f"refused, but changed something: {command}"
            check_project(self.history.project)
            command = "undoing and redoing all"
            last = state(self.history.project)
            names, count = self.history.labels
            while len(self.history.commands) > self.base and self.history.undo():
                pass
            if self.history.commands[:1] != [self.begun]:
                self.counts["forgotten"] += 1  # the disk did not take a large step
            elif len(self.history.commands) == self.base and state(self.history.project) != self.first:
                return f"undoing {count} steps did not give the first state back: {names}"
            while len(self.history.labels[0]) > len(self.history.commands) and len(self.history.commands) < count:
                self.history.redo()
            if state(self.history.project) != last:
                return f"doing {count} steps again did not give the last state back: {names}"
        except BaseException:
            steps_so_far = [msgspec.json.encode(entry).decode() for entry in self.history.commands]
            return f"at {command}\n{traceback.format_exc()}\nafter [{', '.join(steps_so_far)}]"
        self._begin()
        return None

    def command(self) -> Command:
        """Something of the registry with random values."""
        project = self.history.project
        if self.rng.random() < 0.2 and project.bodies:  # so that by hand there mostly is something in hand
            count = 3 * max(body.corners.count for body in project.bodies)
            return ChooseParts(
                self.rng.choice(project.bodies).name,
                self.rng.choice(DOMAINS),
                self.rng.choice(("these", "these", "facing", "all", "random", "border", "loop")),
                these=tuple(self.rng.randrange(max(count // 6, 1)) for _ in range(self.rng.choice((1, 2, 6)))),
                high=40.0, share=self.rng.choice((0.02, 0.2)), seed=self.rng.randrange(99),
            )  # fmt: skip
        small = sum(body.vertices.live_count for body in project.bodies) < MOST_VERTICES
        while True:
            kind = self.rng.choice(COMMANDS)
            if kind is ImportBody or (
                not small and kind.__name__ in ("AddBody", "Subdivide", "DuplicateBody", "Recast", "Bore")
            ):
                continue
            if kind.__name__ in ("RemoveBody", "JoinBodies") and len(project.bodies) < 2:
                continue
            if self.rng.random() < 0.35:
                kind = next(entry for entry in COMMANDS if entry.__name__ == "Stroke")
            hints = typing.get_type_hints(kind)
            given = {
                field.name: self.value(kind.__name__, field.name, hints[field.name])
                for field in msgspec.structs.fields(kind)
                if field.required or self.rng.random() < 0.55
            }
            if kind.__name__ == "Stroke":
                given = self.stroke()
            if kind.__name__ == "AddBody":
                given["settings"] = (
                    {"edge": self.rng.choice((1.5, 2.0, 3.0)), "radius": 3.0}
                    if given["form"] not in ("sheet", "block")
                    else {"edge": 1.5, "size": 5.0}
                )
            if kind.__name__ == "Recast":
                given["edge"] = self.rng.choice((0.8, 1.2, 2.0, 5.0))
            if kind.__name__ == "Bore":
                given["edge"], given["radius"], given["rough"] = 1.0, 0.8, 0.1
            try:
                return msgspec.convert(given, kind, strict=False)
            except msgspec.ValidationError:
                continue

    def value(self, kind: str, name: str, hint: Any) -> Any:
        """A value for a field, mostly a sensible one."""
        rng, project = self.rng, self.history.project
        if rng.random() < 0.03:
            return rng.choice((-1, 0, 1e30, "", "none such", True, None, (), 2**40, 0.5, float("inf")))
        body = rng.choice(project.bodies) if project.bodies else None
        if name == "bodies":
            return tuple(entry.name for entry in project.bodies if rng.random() < 0.7)
        if name == "within":
            return rng.choice((0.001, 0.1, 1.0, 3.0))
        if (kind, name) in OWN_WORDS:
            return rng.choice(OWN_WORDS[kind, name])
        if kind == "ChooseParts" and name == "name":
            return rng.choice(("One", "Two", *project.ground_names, *(entry.name for entry in project.objects)))
        if kind == "ChangeLine" and name == "line":
            return rng.choice(
                [entry.name for entry in project.objects if entry.kind in ("outline", "track")] or ["none"]
            )
        if kind in ("AddLine", "ChangeLine") and name == "points":
            return self.line(body)
        if kind in ("AddLine", "ChangeLine") and name == "settings":
            return {entry.name: self.setting(entry) for entry in LINE_SETTINGS if rng.random() < 0.3}
        if kind in DRESSING:
            found = self.dress(kind, name, body)
            if found is not None:
                return found
        if kind == "MoveChosen" and name == "axes":
            return rng.choice((((1.0, 0, 0), (0, 1.0, 0), (0, 0, 1.0)), ((0, 0, 1.0), (0, 1.0, 0), (1.0, 0, 0))))
        if kind == "MoveChosen" and name == "falloff":
            return rng.choice(("smooth", "dome", "sharp", "linear"))
        if kind in ("ChangeObject", "RemoveObject", "MoveObject") and name in ("object", "name"):
            return rng.choice([entry.name for entry in project.objects] or ["none"])
        if name in ("body", "other", "source", "on", "onto") and not (kind == "GuardFrom" and name == "source"):
            return body.name if body else "none"
        if name in ("ground", "into", "base", "only_on", "tile_as") or (kind == "SwapGrounds" and name == "other"):
            return rng.choice((*project.ground_names, ""))
        if kind in ("SwapGrounds", "MergeGrounds"):
            return rng.choice(project.ground_names)
        if name == "layer":
            return rng.choice([entry.name for entry in body.layers] or [""]) if body else ""
        if name == "relief":
            return rng.choice(list(RELIEFS))
        if name == "brush":
            return rng.choice(list(BRUSHES))
        if name in WORDS:
            return rng.choice(WORDS[name])
        if name == "name":
            return rng.choice(("Body", "Rock", "Moss", "A 1", "é/\\%", "Same"))
        if name == "settings":
            return {}
        if name in ("rules", "where"):
            return self.rules() if name == "rules" else self.rules()[0].conditions
        if name == "values":
            return rng.choice(
                ({}, {"turn": 20.0}, {"plain": ["albedo"]}, {"tile": -1.0}, {"break_up": True}, {"locked": True})
            )
        if kind in ("MoveChosen", "CutLevels", "SetDown") and name in ("at", "move") and rng.random() < 0.8:
            return tuple(round(rng.uniform(-3, 3), 3) for _ in range(3))
        if kind == "PlantVertex" and name == "at":
            a, b = sorted((rng.random(), rng.random()))
            return a, b - a, 1 - b
        if name in ("at", "move", "point", "eye", "target", "toward"):
            far = rng.choice((1.0, 1.0, 1.0, 5000.0, 1e7))
            return tuple(round(rng.uniform(-3, 3) * far, 3) for _ in range(3))
        if name == "turn":
            return tuple(rng.uniform(-180, 180) for _ in range(3))
        if name == "scale":
            return tuple(rng.choice((1.0, 1.0, 0.5, 2.0)) for _ in range(3))
        if name == "path":
            return tuple(tuple(rng.uniform(-6, 6) for _ in range(3)) for _ in range(rng.choice((1, 2, 3))))
        if name in ("radii", "samples"):
            return ()
        if name == "face":
            return rng.randrange(max(body.corners.count, 1)) if body else 0
        if name in ("rows", "these"):
            count = body.vertices.count if body else 1
            return tuple(rng.randrange(count) for _ in range(rng.choice((1, 2, 5))))
        if name in ("count", "steps", "passes", "to", "place", "seed", "together"):
            return rng.choice((0, 1, 2, 3, 50, 300))
        if hint is bool or "bool" in str(hint):
            return rng.random() < 0.5
        return rng.choice((0.1, 0.3, 0.5, 0.8, 1.0, 2.0, 10.0, 40.0))

    def dress(self, kind: str, name: str, body: Body | None) -> Any:
        """A value for a field of a command that dresses the scene; None where it is like those of others."""
        rng, props = self.rng, self.history.project.props
        names = [prop.name for prop in props] or ["none"]
        if name == "prop":
            return rng.choice(names)
        if name == "shares":
            return {rng.choice(names): rng.choice((1.0, 1.0, 3.0, 0.0)) for _ in range(2)}
        if kind == "Strew" and name == "settings":
            found = {entry.name: self.setting(entry) for entry in STREW if rng.random() < 0.2}
            return {**found, "radius": rng.choice((1.0, 3.0)), "density": rng.choice((0.3, 2.0)), "ground": ""}
        if kind == "Strew" and name == "samples" and body is not None and body.corners.live_count:
            rows = body.corners.live_triangles().reshape(-1)
            return tuple(
                tuple((body.vertices["position"][rng.choice(rows)].astype(float) + body.origin).tolist())
                for _ in range(2)
            )
        if kind in ("BankUp", "SinkRim") and name in ("around", "into"):
            return rng.choice([entry.name for entry in self.history.project.bodies] or ["none"])
        if name == "which":
            count = body.strewn.count if body is not None and body.strewn is not None else 1
            return tuple(rng.randrange(max(count, 1)) for _ in range(rng.choice((1, 3))))
        if name in ("turn", "size") and kind == "ChangeStrewn":
            return rng.choice((0.5, 1.0, 2.0, 90.0))
        if name == "rules":
            settings = {
                entry.name: self.setting(entry) for entry in HOW if rng.random() < 0.15 and entry.name != "ground"
            }
            settings["density"] = rng.choice((0.05, 0.5))
            return (StrewRule("A", {rng.choice(names): 1.0}, settings, self.rules()[0].conditions),)
        if name == "values":
            words = ("foot", "smallest", "largest", "upright", "share")
            return {} if kind == "AddWater" else {rng.choice(words): rng.choice((0.1, 0.5, 1.0, 3.0))}
        if kind == "AddWater" and name == "level":
            return rng.choice((None, -0.5, 0.0, 0.5, 3.0))
        if kind == "SetLight":
            return {"day": "2026-06-21", "fog_colour": rng.choice(("", "#aabbcc")), "hour": 12.5, "zone": 1.0,
                    "latitude": rng.choice((None, 50.0)), "longitude": rng.choice((None, 9.0))}.get(name)  # fmt: skip
        return None

    def line(self, body: Body | None) -> tuple[LinePoint, ...]:
        """Points of a line on a body, around one of its vertices."""
        rng = self.rng
        if body is None:
            return ()
        row = rng.choice(body.corners.live_triangles().reshape(-1).tolist())
        middle = body.vertices["position"][row].astype(float) + body.origin
        size = rng.choice((0.8, 1.5, 3.0))
        turn = [2 * math.pi * (i + rng.uniform(0, 0.8)) / 5 for i in range(rng.choice((1, 2, 4, 5)))]
        return tuple(
            LinePoint(tuple((middle + size * np.array((math.cos(a), rng.uniform(-0.2, 0.2), math.sin(a)))).tolist()),
                      rng.random() < 0.3, rng.choice((0.0, 0.0, 1.0)))
            for a in turn
        )  # fmt: skip

    def rules(self) -> tuple[Rule, ...]:
        """A few ground rules."""
        rng = self.rng
        out = []
        for _ in range(rng.choice((1, 1, 2))):
            conditions = []
            for _ in range(rng.choice((0, 1, 2))):
                measure = rng.choice([name for name in MEASURES if name != "shelter" or rng.random() < 0.2])
                settings = {"to": rng.choice(self.history.project.ground_names)} if measure == "near" else {}
                low, high, soft = rng.choice((None, 0.0, 0.5)), rng.choice((None, 1.0, 30.0)), rng.choice((0.0, 0.5))
                conditions.append(Condition(measure, settings, low, high, soft, join=rng.choice(JOINS)))
            out.append(Rule(rng.choice(self.history.project.ground_names), tuple(conditions), rng.choice((1.0, 0.5))))
        return tuple(out)

    def stroke(self) -> dict[str, Any]:
        """Fields of a stroke with random settings of its brush."""
        rng, project = self.rng, self.history.project
        brush = rng.choice(list(BRUSHES.values()))
        body = rng.choice(project.bodies) if project.bodies else None
        settings = {entry.name: self.setting(entry) for entry in brush.all_settings if rng.random() < 0.25}
        settings["radius"] = rng.choice((0.5, 1.5, 1.5, 3.0, 3.0, 3.0, 8.0))
        if settings.get("grow", "off") != "off" or brush.remeshes:
            settings["edge"] = rng.choice((0.5, 1.0, 2.0))
            settings["radius"] = rng.choice((0.5, 1.5))
        settings["spacing"] = rng.choice((15.0, 50.0, 50.0, 100.0))
        samples = []
        for _ in range(rng.choice((1, 2, 3))):
            point = np.zeros(3)
            if body is not None and body.vertices.count:
                point = body.vertices["position"][rng.randrange(body.vertices.count)].astype(float) + body.origin
            if rng.random() < 0.5:
                samples.append(tuple(point.tolist()))
            else:
                samples.append((*(point + np.array([0.0, 30.0, 0.0])).tolist(), 0.0, -1.0, 0.0, round(rng.random(), 2)))
        layers = ["", *(entry.name for entry in body.layers)] if body and brush.shapes else [""]
        return {
            "body": body.name if body else "none", "brush": brush.name, "samples": samples, "settings": settings,
            "ground": rng.choice(project.ground_names) if brush.needs_ground else "",
            "invert": bool(brush.inverse) and rng.random() < 0.3, "layer": rng.choice(layers),
            "over": [entry.name for entry in project.bodies if rng.random() < 0.4],
        }  # fmt: skip

    def setting(self, entry: Any) -> Any:
        """A value of a setting, now and then a wrong one."""
        rng = self.rng
        if rng.random() < 0.02:
            return rng.choice((-1.0, "x", None, 1e300, 10**400))
        if isinstance(entry, Number):
            low, high = entry.comfort or (entry.low, entry.high)
            value = rng.uniform(low, min(high, low + 20.0))
            return round(value) if entry.whole else round(value, 3)
        if isinstance(entry, Choice):
            return rng.choice([choice[0] for choice in entry.choices])
        if isinstance(entry, Switch):
            return rng.random() < 0.5
        if isinstance(entry, Curve | Colour):
            return entry.default
        return entry.default


def state(project: Project) -> list[Any]:
    """All of a project that counts, to the byte."""
    out: list[Any] = [
        project.name, project.grounds, project.blend, project.light, project.objects, project.props, project.waivers,
        {name: mesh.position.tobytes() for name, mesh in project.prop_meshes.items()},
        {name: dict(parts) for name, parts in project.textures.items()},
    ]  # fmt: skip
    for body in project.bodies:
        out += [body.ident, body.name, body.layers, body.rules, body.base, body.border_lock, body.shown, body.locked]
        out += [body.origin, body.down, _columns(body), body.corners.vertex.tobytes(), body.corners.opposite.tobytes()]
        out += [(name, body.corners.slots[name].tobytes()) for name in body.corners.slots.names()]
        strewn = body.strewn
        out += [body.strew_rules, None if strewn is None else [getattr(strewn, name).tobytes() for name in LAYOUT]]
    return out


def _columns(body: Body) -> dict[str, bytes]:
    live = body.corners.first_corner >= 0
    layered = bool(body.layers)
    return {
        name: (body.vertices[name][live] if derived(name, layered) else body.vertices[name]).tobytes()
        for name in sorted(body.vertices.names)
        if name != "normal"
    }


def _patient() -> Progress:
    # stops what takes too long, where it can be stopped
    end = time.monotonic() + PATIENCE

    def report(_: float, what: str) -> None:
        if time.monotonic() > end:
            raise Cancelled(f"stopped while {what}")

    return Progress(report)
