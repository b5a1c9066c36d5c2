"""A project in figures, for `hulmo info`."""

from dataclasses import asdict
from typing import Any

from hulmo.core.ground.weights import weights_of
from hulmo.core.mesh.measure import measure
from hulmo.core.project import Project


def describe(project: Project) -> dict[str, Any]:
    """Figures of a project; the keys are documented in docs/user-guide.md and stay as they are."""
    bodies = []
    for body in project.bodies:
        measures = measure(body)
        shares = weights_of(body, len(project.grounds)).mean(axis=0, dtype="float64")
        bodies.append(
            {
                "name": body.name,
                **asdict(measures),
                "closed": measures.closed,
                "uv": body.corners.uv is not None,
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
    names = ", ".join(f"{ground['name']} ({ground['tile']:g} m)" for ground in figures["grounds"])
    lines.append(f"  palette {names}")
    lines.append(f"  blend {figures['blend']['mode']}, depth {figures['blend']['depth']:g}")
    if figures["viewpoints"]:
        lines.append("  viewpoints " + ", ".join(figures["viewpoints"]))
    return "\n".join(lines)
