"""The blend of grounds as a MaterialX node graph over vertex primvars (MaterialX specification 1.39, standard nodes)."""

import math
from typing import Any

from hulmo.core.colour import hex_to_linear
from hulmo.core.ground.ground import LEAST_DEPTH, Blend, Ground

SHIFTS = ((0.37, 0.13), (0.0, 0.0), (0.71, 0.59))
"""What texture coordinates along X, Y and Z are shifted by; see the blend formula."""

LUMINANCE = (0.2126, 0.7152, 0.0722)

ALONG = "hulmo_along_axes"
"""A node of our own, made of standard ones: an image looked up along X, Y and Z and mixed."""

Out = tuple[Any, str]
"""A node and the kind of what it gives."""


def define_along(document: Any) -> None:
    """Define the node `ALONG` for colours and floats."""
    for kind in ("color3", "float"):
        plain = document.addNodeDef(f"ND_{ALONG}_{kind}", kind, ALONG)
        file = plain.addInput("file", "filename")
        file.setValueString("")
        for axis in "xyz":
            plain.addInput(f"along_{axis}", "vector2").setValueString("0, 0")
            plain.addInput(f"share_{axis}", "float").setValueString("0")
        graph = document.addNodeGraph(f"NG_{ALONG}_{kind}")
        graph.setNodeDefString(plain.getName())
        total = None
        for axis in "xyz":
            image = graph.addNode("image", f"image_{axis}", kind)
            image.addInput("file", "filename").setInterfaceName("file")
            image.addInput("texcoord", "vector2").setInterfaceName(f"along_{axis}")
            part = graph.addNode("multiply", f"part_{axis}", kind)
            part.addInput("in1", kind).setNodeName(image.getName())
            part.addInput("in2", "float").setInterfaceName(f"share_{axis}")
            if total is None:
                total = part
                continue
            added = graph.addNode("add", f"sum_{axis}", kind)
            added.addInput("in1", kind).setNodeName(total.getName())
            added.addInput("in2", kind).setNodeName(part.getName())
            total = added
        assert total is not None
        graph.addOutput("out", kind).setNodeName(total.getName())


class BlendGraph:
    """Builds the graph.

    Parameters
    ----------
    graph : NodeGraph
    flat : bool
        Whether it is made of standard nodes alone, and not of `ALONG`.
    """

    def __init__(self, graph: Any, flat: bool = False) -> None:
        self._graph, self._flat = graph, flat
        self.nodes: list[Any] = []
        """All nodes, each behind those it is fed by."""

    def blend(
        self, grounds: list[Ground], records: list[dict[str, Any]], images: list[str], how: Blend
    ) -> tuple[Out, Out]:
        """Base colour and roughness of all grounds, blended and tinted.

        Parameters
        ----------
        grounds : list of Ground
        records : list of dict
            What is delivered of each; see `ground_records`.
        images : list of str
            Files by the numbers in the records.
        how : Blend
        """
        places, axes = self._places(), self._axes()
        colours, roughs, heights = [], [], []
        for ground, record in zip(grounds, records, strict=True):
            at = [self._coordinates(place, ground, axis) for axis, place in enumerate(places)]
            colours.append(self._adjusted(self._looked_up("color3", "albedo", record, images, at, axes), ground))
            roughs.append(self._looked_up("float", "roughness", record, images, at, axes))
            heights.append(self._looked_up("float", "height", record, images, at, axes))
        shares = self._shares(len(grounds), heights, how)
        colour = self._sum([self.do("multiply", "color3", in1=c, in2=s) for c, s in zip(colours, shares, strict=True)])
        rough = self._sum([self.do("multiply", "float", in1=r, in2=s) for r, s in zip(roughs, shares, strict=True)])
        cover = self.do("geompropvalue", "float", geomprop="tint_cover", default=0.0)
        tint = self.do("geompropvalue", "color3", geomprop="tint", default=(0.0, 0.0, 0.0))
        left = self.do("subtract", "float", in1=1.0, in2=cover)
        over = self.do("add", "color3", in1=tint, in2=left)
        return self.do("multiply", "color3", in1=colour, in2=over), rough

    def do(self, what: str, kind: str, **given: Any) -> Out:
        """A node; what is given are other nodes, or plain values."""
        node = self._graph.addNode(what, f"n{len(self.nodes) + 1}", kind)
        self.nodes.append(node)
        for name, value in given.items():
            if isinstance(value, tuple) and len(value) == 2 and isinstance(value[1], str):
                entry = node.addInput(name, value[1])
                entry.setNodeName(value[0].getName())
            elif isinstance(value, str):
                entry = node.addInput(name, "filename" if name == "file" else "string")
                entry.setValueString(value)
                if name == "file" and kind == "color3":
                    entry.setColorSpace("srgb_texture")
            elif isinstance(value, tuple):
                entry = node.addInput(name, {2: "vector2", 3: kind if kind == "color3" else "vector3"}[len(value)])
                entry.setValueString(", ".join(f"{part:.9g}" for part in value))
            else:
                entry = node.addInput(name, "float")
                entry.setValueString(f"{float(value):.9g}")
        return node, kind

    def _places(self) -> list[Out]:
        # along X: (z, -y); along Y: (x, z); along Z: (x, -y); origin at the upper left, metres
        place = self.do("position", "vector3", space="object")
        x, y, z = (
            self.do("dotproduct", "float", in1=place, in2=way) for way in ((1.0, 0, 0), (0, 1.0, 0), (0, 0, 1.0))
        )
        down = self.do("multiply", "float", in1=y, in2=-1.0)
        return [self.do("combine2", "vector2", in1=a, in2=b) for a, b in ((z, down), (x, z), (x, down))]

    def _axes(self) -> list[Out]:
        normal = self.do("normal", "vector3", space="object")
        size = self.do("absval", "vector3", **{"in": normal})
        fourth = self.do("power", "vector3", in1=size, in2=4.0)
        total = self.do("dotproduct", "float", in1=fourth, in2=(1.0, 1.0, 1.0))
        share = self.do("divide", "vector3", in1=fourth, in2=total)
        less = self.do("subtract", "vector3", in1=share, in2=0.02)
        kept = self.do("max", "vector3", in1=less, in2=0.0)
        again = self.do("dotproduct", "float", in1=kept, in2=(1.0, 1.0, 1.0))
        even = self.do("divide", "vector3", in1=kept, in2=again)
        return [self.do("dotproduct", "float", in1=even, in2=way) for way in ((1.0, 0, 0), (0, 1.0, 0), (0, 0, 1.0))]

    def _coordinates(self, place: Out, ground: Ground, axis: int) -> Out:
        # R (u, v) / tile + shift, then v up: images begin at the lower left there
        c, s = math.cos(math.radians(ground.turn)), math.sin(math.radians(ground.turn))
        u = self.do("dotproduct", "float", in1=place, in2=(c / ground.tile, -s / ground.tile))
        v = self.do("dotproduct", "float", in1=place, in2=(s / ground.tile, c / ground.tile))
        across = self.do("add", "float", in1=u, in2=SHIFTS[axis][0])
        down = self.do("add", "float", in1=v, in2=SHIFTS[axis][1])
        return self.do("combine2", "vector2", in1=across, in2=self.do("subtract", "float", in1=1.0, in2=down))

    def _looked_up(
        self, kind: str, part: str, record: dict[str, Any], images: list[str], at: list[Out], axes: list[Out]
    ) -> Out:
        if part not in record:
            value = record[f"{part}_value"]
            plain = hex_to_linear(value, "ground") if kind == "color3" else float(value)
            return self.do("constant", kind, value=plain)
        if self._flat:
            looked = [self.do("image", kind, file=images[record[part]], texcoord=place) for place in at]
            return self._sum(
                [self.do("multiply", kind, in1=one, in2=share) for one, share in zip(looked, axes, strict=True)]
            )
        # one node for all three lookups, so that a renderer binds the image once
        return self.do(
            ALONG, kind, file=images[record[part]], along_x=at[0], along_y=at[1], along_z=at[2], share_x=axes[0],
            share_y=axes[1], share_z=axes[2],
        )  # fmt: skip

    def _adjusted(self, colour: Out, ground: Ground) -> Out:
        # in linear light: tint, brightness, contrast about 0.18, gamma, saturation about BT.709 luminance
        out = self.do("multiply", "color3", in1=colour, in2=hex_to_linear(ground.tint, "ground"))
        if (ground.brightness, ground.contrast, ground.gamma, ground.saturation) == (1.0, 1.0, 1.0, 1.0):
            return out
        out = self.do("multiply", "color3", in1=out, in2=ground.brightness)
        out = self.do("subtract", "color3", in1=out, in2=0.18)
        out = self.do("multiply", "color3", in1=out, in2=ground.contrast)
        out = self.do("add", "color3", in1=out, in2=0.18)
        out = self.do("max", "color3", in1=out, in2=0.0)
        out = self.do("power", "color3", in1=out, in2=1.0 / ground.gamma)
        grey = self.do("luminance", "color3", **{"in": out}, lumacoeffs=LUMINANCE)
        mixed = self.do("mix", "color3", bg=grey, fg=out, mix=ground.saturation)
        return self.do("max", "color3", in1=mixed, in2=0.0)

    def _shares(self, count: int, heights: list[Out], how: Blend) -> list[Out]:
        weights = [
            self.do("geompropvalue", "float", geomprop=f"ground_{i}", default=float(i == 0)) for i in range(count)
        ]
        if how.mode != "height":
            return weights
        scores = []
        for weight, height in zip(weights, heights, strict=True):
            part = self.do("multiply", "float", in1=height, in2=0.9)
            scores.append(self.do("multiply", "float", in1=weight, in2=self.do("add", "float", in1=part, in2=0.1)))
        top = scores[0]
        for score in scores[1:]:
            top = self.do("max", "float", in1=top, in2=score)
        floor = self.do("multiply", "float", in1=top, in2=1.0 - max(how.depth, LEAST_DEPTH))
        kept = [
            self.do("max", "float", in1=self.do("subtract", "float", in1=score, in2=floor), in2=0.0) for score in scores
        ]
        total = self.do("max", "float", in1=self._sum(kept), in2=1e-6)
        return [self.do("divide", "float", in1=one, in2=total) for one in kept]

    def _sum(self, parts: list[Out]) -> Out:
        out = parts[0]
        for part in parts[1:]:
            out = self.do("add", out[1], in1=out, in2=part)
        return out
