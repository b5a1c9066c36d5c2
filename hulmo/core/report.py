"""A report of a problem that nobody foresaw: what went wrong, and the steps that led there, in a file that can be kept."""

import contextlib
import datetime
import pathlib
import platform
import traceback

import hulmo
from hulmo.core.history import History
from hulmo.core.recipe import command_to_json

MOST_REPORTS = 20
"""Reports that are kept, the newest ones."""

HEAD = """Hulmo {version}, Python {python}, {system}
{when}

{trace}
Steps since the project was opened, as a recipe (`hulmo run`):
"""


def write_report(folder: pathlib.Path, error: BaseException, history: History) -> pathlib.Path | None:
    """Write what is known of a problem; None where no file can be written.

    Parameters
    ----------
    folder : Path
        Made when it is not there; of older reports only the newest are kept.
    error : BaseException
    history : History
        Its remembered steps become the recipe.
    """
    now = datetime.datetime.now()
    file = folder / f"problem-{now:%Y%m%d-%H%M%S-%f}.txt"
    text = HEAD.format(
        version=hulmo.__version__,
        python=platform.python_version(),
        system=platform.platform(),
        when=now.isoformat(" ", "seconds"),
        trace="".join(traceback.format_exception(error)),
    )
    steps = [command_to_json(command).decode() for command in history.commands]
    try:
        folder.mkdir(parents=True, exist_ok=True)
        file.write_text(text + "[\n" + ",\n".join(steps) + "\n]\n", encoding="utf-8", errors="backslashreplace")
        for old in sorted(folder.glob("problem-*.txt"))[:-MOST_REPORTS]:
            with contextlib.suppress(OSError):
                old.unlink()
    except OSError:
        return None
    return file
