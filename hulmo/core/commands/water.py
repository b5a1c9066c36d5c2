"""Waters: put into the scene. They are changed and taken away as other objects are."""

from typing import Any

import numpy as np

from hulmo.core.commands.command import Command
from hulmo.core.commands.objects import free_ident, objects_edit
from hulmo.core.edit import Edit
from hulmo.core.errors import InvalidInput, shown
from hulmo.core.mesh.down import LEVEL
from hulmo.core.mesh.origin import check_place
from hulmo.core.objects import KINDS
from hulmo.core.objects.level_water import LEVEL_WATER
from hulmo.core.objects.pond import POND
from hulmo.core.objects.scene_object import SceneObject
from hulmo.core.progress import Progress
from hulmo.core.project import Project, free_name
from hulmo.core.water.surface import poured

Triple = tuple[float, float, float]

WATERS = (LEVEL_WATER.name, POND.name)


class AddWater(Command, frozen=True, tag="add_water"):
    """Put water into the scene: a level one, or a pond that fills the hollow it is poured into.

    Attributes
    ----------
    kind : str
        level_water or pond.
    at : [x, y, z]
        Metres: the middle of a level water, or the place in a hollow.
    body : str
        Whose down it goes by, or on which the pond lies. Empty: level by the world; a pond needs one.
    level : float or None
        Metres by the body's own down. None: as high as `at`; of a pond, up to where it first runs out.
    name : str
        Empty: named after its kind.
    values : dict
        Settings of its kind.
    """

    kind: str
    at: Triple = (0.0, 0.0, 0.0)
    body: str = ""
    level: float | None = None
    name: str = ""
    values: dict[str, Any] = {}

    def edit(self, project: Project, progress: Progress) -> Edit:
        """See `Command.edit`."""
        where = "add_water"
        if self.kind not in WATERS:
            raise InvalidInput(f"{where}: kind is {shown(self.kind)}; it must be one of {', '.join(WATERS)}")
        check_place(self.at, f"{where}: its place")
        taken = [entry.name for entry in project.objects]
        if self.name in taken:
            raise InvalidInput(f"{where}: there already is {shown(self.name)} in the scene; choose another name")
        name = self.name or free_name(KINDS[self.kind].label, taken)
        place, level = np.array(self.at), self.level
        if self.kind == POND.name or self.body:
            body = project.body_named(self.body, where)
            ident, down = body.ident, body.down
            if self.kind == POND.name:
                pool = poured(body, place, level)
                if pool is None:
                    raise InvalidInput(
                        f"{where}: no water stays at ({place[0]:.2f}, {place[1]:.2f}, {place[2]:.2f}) m on {body.name!r}; "
                        "press in a hollow, or name a level above its bottom"
                    )
                level = pool.level if level is None else level
        else:
            ident, down = 0, LEVEL
        if level is None:
            level = float(down.height(place[None], (0.0, 0.0, 0.0))[0])
        values = {**self.values, "body": ident, "level": level}
        made = SceneObject(free_ident(project), self.kind, name, self.at, values=values)
        return objects_edit(project, (*project.objects, made), f"Add {name}", where, progress)
