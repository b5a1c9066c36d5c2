"""What an exporter is."""

import pathlib
from collections.abc import Callable
from dataclasses import dataclass

from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Setting, Values


@dataclass(frozen=True)
class Exporter:
    """One entry of the exporter registry.

    Attributes
    ----------
    ending : str
        File name ending without the dot.
    label, help : str
    settings : tuple
    write : callable(Project, Path, Values, Progress)
    """

    ending: str
    label: str
    help: str
    settings: tuple[Setting, ...]
    write: Callable[[Project, pathlib.Path, Values, Progress], None]
