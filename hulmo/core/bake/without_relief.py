"""A body as it lies with its relief layers off, to bake what they are onto it."""

from hulmo.core.errors import InvalidInput
from hulmo.core.mesh.body import Body
from hulmo.core.mesh.layer import RELIEF, REST


def without_relief(body: Body) -> Body:
    """A copy that is the form alone, with all else that is known at its vertices, faces and corners.

    Raises
    ------
    InvalidInput
        The body has no relief layers.
    """
    if not body.layers:
        raise InvalidInput(
            f"{body.name!r} has no relief layers, so there is no relief to bake; add one, or name a fine body"
        )
    vertices = body.vertices.copy()
    vertices["position"][:] = body.surface(None)
    for name in [name for name in vertices.names if name == REST or name.startswith(RELIEF)]:
        vertices.drop_column(name)
    out = Body(body.name, vertices, body.corners, body.ident)
    out.origin, out.down, out.base = body.origin, body.down, body.base
    out.replaced()
    return out
