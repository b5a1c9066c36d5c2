"""How long work reports itself and how it is stopped."""

from collections.abc import Callable

from hulmo.core.errors import Cancelled


class Progress:
    """Reports the share of a long job that is done, and carries the wish to stop it.

    Parameters
    ----------
    report : callable(float, str), optional
        Called with the share done (0 to 1) and what is being done now.
    """

    def __init__(self, report: Callable[[float, str], None] | None = None) -> None:
        self._report = report
        self._stopped = False

    def stop(self) -> None:
        """Ask the job to end at its next step; safe to call from another thread."""
        self._stopped = True

    def step(self, share: float, what: str) -> None:
        """Say how far the job is.

        Raises
        ------
        Cancelled
            When `stop` was called.
        """
        if self._stopped:
            raise Cancelled(f"stopped while {what}; nothing was changed")
        if self._report is not None:
            self._report(share, what)

    def part(self, begin: float, end: float) -> "Progress":
        """The progress of a part of the job, which goes from one share of the whole to another."""
        return Progress(lambda share, what: self.step(begin + share * (end - begin), what))


def silent() -> Progress:
    """A progress that reports to nobody."""
    return Progress()
