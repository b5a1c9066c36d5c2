"""Split every triangle of a body in four."""

from hulmo.core.commands.add_body import MOST_VERTICES
from hulmo.core.commands.command import Command
from hulmo.core.edit import Edit, TablesDelta
from hulmo.core.errors import InvalidInput
from hulmo.core.memory import shortage
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.topology.loop import subdivide_loop
from hulmo.core.topology.subdivide import subdivide


class Subdivide(Command, frozen=True, tag="subdivide"):
    """Split every triangle of a body in four; the shape stays as it is, or is drawn smooth after Loop.

    Attributes
    ----------
    smooth : bool
        Whether it is drawn smooth.
    """

    body: str
    smooth: bool = False

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        body = project.body_named(self.body, "subdivide")
        after = body.vertices.live_count + body.corners.live_count * 3 // 2
        if after > MOST_VERTICES:
            raise InvalidInput(
                f"subdivide: {body.name!r} would get {after:,} vertices; at most {MOST_VERTICES:,} are possible"
            )
        short = shortage(after)
        if short:
            raise InvalidInput(f"subdivide: {body.name!r} would get {after:,} vertices: {short}")
        progress.step(0.1, "splitting triangles")
        if self.smooth:
            tables = subdivide_loop(body.vertices, body.corners, body.border_lock)
        else:
            tables = subdivide(body.vertices, body.corners)
        before = (body.vertices, body.corners)
        return Edit(f"Subdivide {body.name}", (TablesDelta(body.ident, before, tables),))
