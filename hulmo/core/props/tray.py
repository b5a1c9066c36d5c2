"""The tray that a project begins with, and the meshes of one."""

from collections.abc import Mapping

import msgspec

from hulmo.core.errors import InvalidInput, shown
from hulmo.core.props.prop import MOST_PROPS, SHIPPED, Prop, PropMesh, check_mesh, check_prop, shipped_mesh
from hulmo.core.props.strew import Tray

FEET = {
    "boulder_1": (0.25, 0.4), "boulder_2": (0.3, 0.4), "boulder_3": (0.2, 0.4), "slab_1": (0.12, 0.1), "slab_2": (0.12, 0.1),
    "slab_3": (0.12, 0.1), "scree": (0.05, 0.0), "tussock": (0.03, 0.4), "shrub": (0.06, 0.7), "wind_bent_tree": (0.25, 0.95),
    "driftwood": (0.06, 0.0), "stalagmite": (0.15, 1.0), "ice_shard": (0.15, 0.4),
}  # fmt: skip
"""Of the shipped props: metres of their foot, and how upright they stand."""


def starter_props() -> tuple[Prop, ...]:
    """All shipped props, of which the boulders are ticked."""
    return tuple(
        Prop(
            number, name.replace("_", " ").capitalize(), name, FEET[name][0], upright=FEET[name][1],
            share=1.0 if name.startswith("boulder") else 0.0,
        )
        for number, name in enumerate(SHIPPED, 1)
    )  # fmt: skip


def mesh_of(prop: Prop, kept: Mapping[str, PropMesh]) -> PropMesh:
    """The mesh of a prop.

    Raises
    ------
    InvalidInput
        There is none of that name.
    """
    if prop.mesh in kept:
        return kept[prop.mesh]
    return shipped_mesh(prop.mesh)


def tray_of(props: tuple[Prop, ...], kept: Mapping[str, PropMesh], shares: Mapping[str, float] | None = None) -> Tray:
    """The tray, with its meshes.

    Parameters
    ----------
    shares : mapping of str to float, optional
        Shares by name, in place of those of the tray: props that it does not name have none.

    Raises
    ------
    InvalidInput
    """
    if shares is not None:
        names = [prop.name for prop in props]
        for name, share in shares.items():
            if name not in names:
                raise InvalidInput(f"the tray has no prop {shown(name)}; it has {', '.join(names) or 'none'}")
            if not 0.0 <= share <= 1000.0:
                raise InvalidInput(f"the share of {shown(name)} is {share:g}; it must lie between 0 and 1,000")
        props = tuple(msgspec.structs.replace(prop, share=float(shares.get(prop.name, 0.0))) for prop in props)
    props = tuple(sorted(props, key=lambda prop: prop.ident))
    return Tray(props, {prop.ident: mesh_of(prop, kept) for prop in props})


def check_tray(props: tuple[Prop, ...], kept: Mapping[str, PropMesh], where: str) -> None:
    """Refuse a tray that no project may hold.

    Raises
    ------
    InvalidInput
    """
    if len(props) > MOST_PROPS:
        raise InvalidInput(f"{where}: {len(props)} props; a tray can hold {MOST_PROPS}")
    for key in ("ident", "name"):
        if len({getattr(prop, key) for prop in props}) < len(props):
            raise InvalidInput(f"{where}: two props share a {'number' if key == 'ident' else key}")
    for prop in props:
        if not prop.name.strip() or len(prop.name) > 200:
            raise InvalidInput(f"{where}: a prop needs a name of at most 200 letters")
        check_prop(prop, where)
        if prop.mesh not in kept and prop.mesh not in SHIPPED:
            raise InvalidInput(f"{where} {prop.name!r}: its mesh {shown(prop.mesh)} is not there")
    for name, mesh in kept.items():
        check_mesh(mesh, f"{where}: mesh {name!r}")
