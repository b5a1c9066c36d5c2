"""Export to Universal Scene Description (OpenUSD): binary, text, or one package with its images."""

import pathlib
import tempfile

from hulmo.core.errors import FileProblem
from hulmo.core.io.axes import SETTINGS as AXES
from hulmo.core.io.exporter import Exporter
from hulmo.core.io.images_beside import SETTING as IMAGES
from hulmo.core.io.images_beside import folder_of, write_beside
from hulmo.core.io.safe_write import safe_write
from hulmo.core.progress import Progress
from hulmo.core.project import Project
from hulmo.core.setting import Choice, Setting, Switch, Values

SETTINGS: tuple[Setting, ...] = (
    *AXES,
    Choice(
        "props", "Dress",
        (
            ("instances", "All of it", "Waters, props as point instances, sun, lamps and cameras."),
            ("none", "Ground alone", "None of these."),
        ),
        "instances", "What comes along beside the ground.",
    ),
    Switch(
        "blend", "Blend of the grounds", False,
        "A MaterialX graph that blends the grounds, for renderers that know it; others take the mean colours.",
    ),
)  # fmt: skip


def write_usd(project: Project, path: pathlib.Path, values: Values, progress: Progress) -> None:
    """Write all shown bodies with shares of grounds as primvars, a preview material, a material for each ground, and the
    dress. Images go into a folder beside the file, in a package into the file.

    Raises
    ------
    InvalidInput, FileProblem
    """
    from pxr import Sdf, Tf, UsdUtils  # slow to import, and needed nowhere else

    from hulmo.core.io.usd_stage import usd_parts

    packed = path.suffix.lower() == ".usdz"
    folder = "textures" if packed else folder_of(path, values)
    parts = usd_parts(project, values, folder, progress)
    progress.step(0.9, "writing")
    with tempfile.TemporaryDirectory(prefix="hulmo-usd-") as name:
        inside = pathlib.Path(name)
        kind = ".usdc" if packed else path.suffix.lower()
        written = inside / f"scene{kind}"
        try:
            parts.stage.GetRootLayer().Export(str(written))
            if packed:
                for image, data in parts.images.items():
                    (inside / image).parent.mkdir(exist_ok=True)
                    (inside / image).write_bytes(data)
                whole = inside / "scene.usdz"
                if not UsdUtils.CreateNewUsdzPackage(Sdf.AssetPath(str(written)), str(whole)):
                    raise FileProblem(f"{path}: the package could not be put together; write .usdc instead")
                written = whole
        except Tf.ErrorException as error:
            raise FileProblem(f"{path}: not written ({error}); is the disk full?") from error
        if not packed:
            write_beside(path, parts.images)
        with safe_write(path) as file, written.open("rb") as made:
            while chunk := made.read(1 << 22):
                file.write(chunk)
    progress.step(1.0, "exported")


EXPORTERS = tuple(
    Exporter(ending, label, text, SETTINGS if ending == "usdz" else (*SETTINGS, IMAGES), write_usd)
    for ending, label, text in (
        ("usdc", "USD", "Scene with weights as primvars, for renderers and pipelines; images beside it."),
        ("usda", "USD text", "The same in words, to be read and compared."),
        ("usdz", "USD package", "The same with its images in one file."),
    )
)
