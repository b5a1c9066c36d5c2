"""A project in figures, for `hulmo info`."""

from dataclasses import asdict
from typing import Any

import numpy as np
from numpy.typing import NDArray

from hulmo.core.ground.hand import hand_share
from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.body import GUARD, Body
from hulmo.core.mesh.measure import measure
from hulmo.core.progress import Progress, silent
from hulmo.core.project import Project


def describe(project: Project, progress: Progress | None = None, care: bool = False) -> dict[str, Any]:
    """Figures of a project; the keys are documented in docs/user-guide.md and stay as they are.

    What Mesh care finds is only looked for with `care`: it takes many times as long as all else.
    """
    progress = progress or silent()
    bodies = []
    for place, body in enumerate(project.bodies):
        span = (place / len(project.bodies), (place + 1) / len(project.bodies))
        measures = measure(body)
        shares = weights_of(body, len(project.grounds)).mean(axis=0, dtype="float64")
        bodies.append(
            {
                "name": body.name,
                "origin": list(body.origin),
                **asdict(measures),
                "closed": measures.closed,
                "care": faults(project, body, progress.part(*span)) if care else None,
                "uv": body.corners.uv is not None,
                "layers": [
                    {
                        "name": layer.name,
                        "strength": layer.strength,
                        "shown": layer.shown,
                        "locked": layer.locked,
                        "rms": round(rms(body.vertices[layer.column]), 6),
                        "relief": None if layer.laid is None else layer.laid.relief,
                    }
                    for layer in body.layers
                ],
                "guarded": round(float(body.vertices[GUARD].mean()), 6) if GUARD in body.vertices else 0.0,
                "base_ground": project.grounds[body.base].name,
                "ground_rules": len(body.rules),
                "hand_paint": round(float(hand_share(body, slice(None)).mean()), 6) if body.vertices.count else 0.0,
                "ground_shares": {
                    ground.name: round(float(share), 6) for ground, share in zip(project.grounds, shares, strict=True)
                },
            }
        )
    return {
        "name": project.name,
        "bodies": bodies,
        "grounds": [
            {"name": ground.name, "texture": ground.texture, "tile": ground.tile, "tint": ground.tint}
            for ground in project.grounds
        ],
        "blend": {"mode": project.blend.mode, "depth": project.blend.depth},
        "viewpoints": [view.name for view in project.viewpoints],
    }


def faults(project: Project, body: Body, progress: Progress) -> dict[str, int]:
    """What Mesh care finds on a body of a project at the first limits of its checks, by name of the check."""
    from hulmo.core.care import CHECKS  # a quarter of what a look at a project imports

    found = {}
    others = tuple(other for other in project.bodies if other is not body)
    for done, check in enumerate(CHECKS.values()):
        progress.step(done / len(CHECKS), f"{body.name}: looking for {check.label.lower()}")
        part = progress.part(done / len(CHECKS), (done + 1) / len(CHECKS))
        found[check.name] = check.look(body, others, check.limit.default, part).count
    return found


def faults_text(found: dict[str, int]) -> str:
    """The same as words: what there is, or that nothing was found."""
    from hulmo.core.care import CHECKS

    there = [f"{CHECKS[name].label.lower()} {count:,}" for name, count in found.items() if count]
    return "Mesh care: " + (", ".join(there) or "nothing found")


def rms(offsets: NDArray[np.float32]) -> float:
    """Root-mean-square length of (N, 3) offsets, metres."""
    return float(np.sqrt(np.mean(np.einsum("ij,ij->i", offsets, offsets, dtype=np.float64)))) if offsets.size else 0.0


def as_text(figures: dict[str, Any]) -> str:
    """The same for reading."""
    lines = [figures["name"]]
    for body in figures["bodies"]:
        volume = "open" if body["volume"] is None else f"closed, {body['volume']:,.1f} m³"
        extent = " x ".join(f"{high - low:.2f}" for low, high in zip(body["low"], body["high"], strict=True))
        lines += [
            f"  body {body['name']}",
            f"    {body['vertices']:,} vertices, {body['triangles']:,} triangles, {body['edges']:,} edges",
            f"    extent {extent} m, area {body['area']:,.1f} m², {volume}",
            f"    edges {body['edge_shortest']:.3f} / {body['edge_mean']:.3f} / {body['edge_longest']:.3f} m "
            "(shortest, mean, longest)",
            f"    {body['parts']} part(s), {body['border_loops']} border loop(s), genus {body['genus']}, "
            f"{100 * body['thin_share']:.2f} % thin triangles",
            "    grounds " + ", ".join(f"{name} {100 * share:.1f} %" for name, share in body["ground_shares"].items()),
        ]
        if body["care"] is not None:
            lines.append(f"    {faults_text(body['care'])}")
        if body["ground_rules"]:
            lines.append(
                f"    {body['ground_rules']} ground rules over {body['base_ground']}, "
                f"{100 * body['hand_paint']:.1f} % painted by hand"
            )
        if body["layers"]:
            layers = ", ".join(f"{entry['name']} {100 * entry['strength']:.0f} %" for entry in body["layers"])
            lines.append(f"    relief layers, lowest first: {layers}")
    names = ", ".join(f"{ground['name']} ({ground['tile']:g} m)" for ground in figures["grounds"])
    lines.append(f"  palette {names}")
    lines.append(f"  blend {figures['blend']['mode']}, depth {figures['blend']['depth']:g}")
    if figures["viewpoints"]:
        lines.append("  viewpoints " + ", ".join(figures["viewpoints"]))
    return "\n".join(lines)
