"""The blend of grounds as a MaterialX node graph over vertex primvars (MaterialX specification 1.39, standard nodes)."""

import math
from dataclasses import dataclass
from typing import Any

from hulmo.core.colour import hex_to_linear
from hulmo.core.ground.ground import LEAST_DEPTH, Blend, Ground
from hulmo.core.io.materialx_tables import Table, Tables

SHIFTS = ((0.37, 0.13), (0.0, 0.0), (0.71, 0.59))
"""What texture coordinates along X, Y and Z are shifted by; see the blend formula."""

LUMINANCE = (0.2126, 0.7152, 0.0722)

ALONG, BROKEN, VARIED = "hulmo_along_axes", "hulmo_broken_along_axes", "hulmo_varied"
"""Nodes of our own, made of standard ones: an image looked up along X, Y and Z and mixed, whole or broken up; and variation
over the land."""

VARIED_BY = ("size", "strength", "wide", "high", "deep")
"""Numbers that `VARIED` is given."""

FILES = ("file", "table")
"""Inputs that name files."""

LEAST = 0.02
"""A piece that would count less counts nothing."""

Out = tuple[Any, str]
"""A node and the kind of what it gives."""

Laid = list[tuple[Out, Out]]
"""Pieces that a texture is laid of: where each is looked up, and how much it counts."""


@dataclass(frozen=True)
class Given:
    """What a node of our own is given, by the name of its input."""

    name: str
    kind: str


def define_along(document: Any) -> None:
    """Define the nodes `ALONG` and `BROKEN` for colours and floats, and `VARIED`."""
    plain = document.addNodeDef(f"ND_{VARIED}", "float", VARIED)
    plain.addInput("table", "filename").setValueString("")
    plain.addInput("low", "vector3").setValueString("0, 0, 0")
    for name in VARIED_BY:
        plain.addInput(name, "float").setValueString("1")
    graph = document.addNodeGraph(f"NG_{VARIED}")
    graph.setNodeDefString(plain.getName())
    given = [Given(name, "float") for name in VARIED_BY]
    out = BlendGraph(graph).varied(Given("table", "filename"), Given("low", "vector3"), *given)
    graph.addOutput("out", "float").setNodeName(out[0].getName())
    for kind in ("color3", "float"):
        for name, broken in ((ALONG, False), (BROKEN, True)):
            plain = document.addNodeDef(f"ND_{name}_{kind}", kind, name)
            for file in ("file", "table") if broken else ("file",):
                plain.addInput(file, "filename").setValueString("")
            for axis in "xyz":
                plain.addInput(f"along_{axis}", "vector2").setValueString("0, 0")
                plain.addInput(f"share_{axis}", "float").setValueString("0")
            if broken:
                plain.addInput("mean", kind).setValueString("0, 0, 0" if kind == "color3" else "0")
                plain.addInput("first", "float").setValueString("0")
                plain.addInput("cells", "float").setValueString("1")
            graph = document.addNodeGraph(f"NG_{name}_{kind}")
            graph.setNodeDefString(plain.getName())
            build = BlendGraph(graph)
            at = [Given(f"along_{axis}", "vector2") for axis in "xyz"]
            shares = [Given(f"share_{axis}", "float") for axis in "xyz"]
            if broken:
                table = Given("table", "filename"), Given("first", "float"), Given("cells", "float")
                laid = [build.laid(place, *table) for place in at]
                out = build.broken(kind, Given("file", "filename"), laid, shares, Given("mean", kind))
            else:
                out = build.looked(kind, Given("file", "filename"), at, shares)
            graph.addOutput("out", kind).setNodeName(out[0].getName())


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
        self, grounds: list[Ground], records: list[dict[str, Any]], images: list[str], how: Blend, tables: Tables
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
        tables : Tables
            For broken-up repeats and variation.
        """
        places, axes = self._places(), self._axes()
        colours, roughs, heights = [], [], []
        for ground, record, means in zip(grounds, records, tables.means, strict=True):
            plane = [self._plane(place, ground, axis) for axis, place in enumerate(places)]
            laid: Any = None
            if ground.break_up and tables.shifts is not None and any(part in record for part in means):
                table = tables.shifts
                laid = (
                    [self.laid(place, table.file, table.low[0], table.count[0]) for place in plane]
                    if self._flat
                    else table
                )
            look = lambda kind, part, at=plane, pieces=laid, r=record, m=means: self._looked_up(  # noqa: E731
                kind, part, r, images, at, axes, pieces, m
            )
            colour = self._adjusted(look("color3", "albedo"), ground)
            if ground.variation > 0 and tables.values is not None:
                table = tables.values
                low = tuple(float(cell) for cell in table.low)
                own = ground.variation_size, ground.variation, *map(float, table.count)
                given = dict(zip(VARIED_BY, own, strict=True))
                if self._flat:
                    factor = self.varied(table.file, low, **given)
                else:
                    factor = self.do(VARIED, "float", table=table.file, low=low, **given)
                colour = self.do("multiply", "color3", in1=colour, in2=factor)
            colours.append(colour)
            roughs.append(look("float", "roughness"))
            heights.append(look("float", "height"))
        shares = self._shares(len(grounds), heights, how)
        colour = self._sum([self.do("multiply", "color3", in1=c, in2=s) for c, s in zip(colours, shares, strict=True)])
        rough = self._sum([self.do("multiply", "float", in1=r, in2=s) for r, s in zip(roughs, shares, strict=True)])
        cover = self.do("geompropvalue", "float", geomprop="tint_cover", default=0.0)
        tint = self.do("geompropvalue", "color3", geomprop="tint", default=(0.0, 0.0, 0.0))
        left = self.do("subtract", "float", in1=1.0, in2=cover)
        over = self.do("add", "color3", in1=tint, in2=left)
        return self.do("multiply", "color3", in1=colour, in2=over), rough

    def do(self, what: str, kind: str, **given: Any) -> Out:
        """A node; what is given are other nodes, what its graph is given, or plain values."""
        node = self._graph.addNode(what, f"n{len(self.nodes) + 1}", kind)
        self.nodes.append(node)
        for name, value in given.items():
            if isinstance(value, Given):
                node.addInput(name, value.kind).setInterfaceName(value.name)
            elif isinstance(value, tuple) and len(value) == 2 and isinstance(value[1], str):
                entry = node.addInput(name, value[1])
                entry.setNodeName(value[0].getName())
            elif isinstance(value, str):
                entry = node.addInput(name, "filename" if name in FILES else "string")
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

    def looked(self, kind: str, file: Any, at: list[Any], axes: list[Any]) -> Out:
        """An image looked up along the three axes, by coordinates from its upper left, and mixed."""
        looked = [self.do("image", kind, file=file, texcoord=self._upright(place)) for place in at]
        return self._sum(
            [self.do("multiply", kind, in1=one, in2=share) for one, share in zip(looked, axes, strict=True)]
        )

    def laid(self, place: Any, table: Any, first: Any, cells: Any) -> Laid:
        """The three pieces that a broken-up texture is laid of at a coordinate; see the blend formula.

        Parameters
        ----------
        table : file of shifts
        first, cells
            Its first cell along both sides, and how many there are.
        """
        across = self.do("dotproduct", "float", in1=place, in2=(2.0, -2.0 * 0.57735027))
        down = self.do("dotproduct", "float", in1=place, in2=(0.0, 2.0 * 1.15470054))
        at = self.do("combine2", "vector2", in1=across, in2=down)
        cell = self.do("floor", "vector2", **{"in": at})
        part = self.do("subtract", "vector2", in1=at, in2=cell)
        x, y = (self.do("dotproduct", "float", in1=part, in2=way) for way in ((1.0, 0.0), (0.0, 1.0)))
        third = self.do("subtract", "float", in1=self.do("subtract", "float", in1=1.0, in2=x), in2=y)
        low = self.do("ifgreater", "float", value1=third, value2=0.0, in1=1.0, in2=0.0)
        high = self.do("subtract", "float", in1=1.0, in2=low)
        weights = [self.do("absval", "float", **{"in": third})]
        for share in (y, x):
            other = self.do("subtract", "float", in1=1.0, in2=share)
            weights.append(self.do("mix", "float", bg=other, fg=share, mix=low))
        kept = [
            self.do("max", "float", in1=self.do("subtract", "float", in1=weight, in2=LEAST), in2=0.0)
            for weight in weights
        ]
        total = self._sum(kept)
        steps = [
            self.do("combine2", "vector2", in1=one, in2=other)
            for one, other in ((high, high), (high, low), (low, high))
        ]
        out = []
        for weight, step in zip(kept, steps, strict=True):
            corner = self.do("add", "vector2", in1=cell, in2=step)
            inside = self.do("subtract", "vector2", in1=corner, in2=first)
            middle = self.do("add", "vector2", in1=inside, in2=0.5)
            texel = self._upright(self.do("divide", "vector2", in1=middle, in2=cells))
            shift = self.do("image", "vector2", file=table, texcoord=texel, filtertype="closest")
            out.append(
                (
                    self.do("add", "vector2", in1=place, in2=shift),
                    self.do("divide", "float", in1=weight, in2=total),
                )
            )
        return out

    def broken(self, kind: str, file: Any, laid: list[Laid], axes: list[Any], mean: Any) -> Out:
        """An image laid in pieces along the three axes, its contrast kept, and mixed."""
        parts = []
        for pieces, share in zip(laid, axes, strict=True):
            away, squares = [], []
            for at, weight in pieces:
                value = self.do("image", kind, file=file, texcoord=self._upright(at))
                off = self.do("subtract", kind, in1=value, in2=mean)
                away.append(self.do("multiply", kind, in1=off, in2=weight))
                squares.append(self.do("multiply", "float", in1=weight, in2=weight))
            root = self.do("sqrt", "float", **{"in": self._sum(squares)})
            whole = self.do("add", kind, in1=self.do("divide", kind, in1=self._sum(away), in2=root), in2=mean)
            within = self.do("clamp", kind, **{"in": whole})
            parts.append(self.do("multiply", kind, in1=within, in2=share))
        return self._sum(parts)

    def varied(self, table: Any, low: Any, size: Any, strength: Any, wide: Any, high: Any, deep: Any) -> Out:
        """Value noise in cells of a size, as a factor on the colour; see the blend formula.

        Parameters
        ----------
        table : file of values
        low
            Its first cell, a vector.
        wide, high, deep
            Cells along each axis.
        """
        place = self.do("position", "vector3", space="object")
        at = self.do("divide", "vector3", in1=place, in2=size)
        cell = self.do("floor", "vector3", **{"in": at})
        part = self.do("subtract", "vector3", in1=at, in2=cell)
        inside = self.do("subtract", "vector3", in1=cell, in2=low)
        ways = ((1.0, 0.0, 0.0), (0.0, 1.0, 0.0), (0.0, 0.0, 1.0))
        cells = [self.do("dotproduct", "float", in1=inside, in2=way) for way in ways]
        rows = self.do("multiply", "float", in1=high, in2=deep)
        shares = []
        for way in ways:
            t = self.do("dotproduct", "float", in1=part, in2=way)
            double = self.do("multiply", "float", in1=t, in2=-2.0)
            square = self.do("multiply", "float", in1=t, in2=t)
            shares.append(self.do("multiply", "float", in1=square, in2=self.do("add", "float", in1=double, in2=3.0)))
        others = [self.do("subtract", "float", in1=1.0, in2=share) for share in shares]
        total = []
        for corner in range(8):
            step = [corner >> axis & 1 for axis in range(3)]
            x, y, z = (self.do("add", "float", in1=cells[k], in2=step[k]) for k in range(3))
            row = self.do("add", "float", in1=self.do("multiply", "float", in1=z, in2=high), in2=y)
            across = self.do("divide", "float", in1=self.do("add", "float", in1=x, in2=0.5), in2=wide)
            down = self.do("divide", "float", in1=self.do("add", "float", in1=row, in2=0.5), in2=rows)
            texel = self._upright(self.do("combine2", "vector2", in1=across, in2=down))
            value = self.do("image", "float", file=table, texcoord=texel, filtertype="closest")
            for axis in range(3):
                value = self.do("multiply", "float", in1=value, in2=(shares if step[axis] else others)[axis])
            total.append(value)
        noise = self.do("multiply", "float", in1=self._sum(total), in2=2.0)
        less = self.do("subtract", "float", in1=noise, in2=1.0)
        return self.do("add", "float", in1=self.do("multiply", "float", in1=less, in2=strength), in2=1.0)

    def _upright(self, place: Any) -> Out:
        # from the upper left: images begin at the lower left there
        flipped = self.do("multiply", "vector2", in1=place, in2=(1.0, -1.0))
        return self.do("add", "vector2", in1=flipped, in2=(0.0, 1.0))

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

    def _plane(self, place: Out, ground: Ground, axis: int) -> Out:
        # R (u, v) / tile + shift
        c, s = math.cos(math.radians(ground.turn)), math.sin(math.radians(ground.turn))
        u = self.do("dotproduct", "float", in1=place, in2=(c / ground.tile, -s / ground.tile))
        v = self.do("dotproduct", "float", in1=place, in2=(s / ground.tile, c / ground.tile))
        across = self.do("add", "float", in1=u, in2=SHIFTS[axis][0])
        down = self.do("add", "float", in1=v, in2=SHIFTS[axis][1])
        return self.do("combine2", "vector2", in1=across, in2=down)

    def _looked_up(
        self, kind: str, part: str, record: dict[str, Any], images: list[str], at: list[Out], axes: list[Out],
        laid: list[Laid] | Table | None, means: dict[str, list[float]],
    ) -> Out:  # fmt: skip
        if part not in record:
            value = record[f"{part}_value"]
            plain = hex_to_linear(value, "ground") if kind == "color3" else float(value)
            return self.do("constant", kind, value=plain)
        file = images[record[part]]
        mean: Any = tuple(means[part]) if kind == "color3" and means else means[part][0] if means else None
        if laid is None:
            if self._flat:
                return self.looked(kind, file, at, axes)
        elif not isinstance(laid, Table):
            return self.broken(kind, file, laid, axes, mean)
        # one node for all lookups, so that a renderer binds the image once
        more = {} if laid is None else {"table": laid.file, "mean": mean, "first": laid.low[0], "cells": laid.count[0]}
        return self.do(
            ALONG if laid is None else BROKEN, kind, file=file, along_x=at[0], along_y=at[1], along_z=at[2],
            share_x=axes[0], share_y=axes[1], share_z=axes[2], **more,
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
