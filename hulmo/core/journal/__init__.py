"""The journal: every finished step on disk, so that a crash loses nothing."""

from hulmo.core.journal.journal import Journal
from hulmo.core.journal.leftover import Leftover, Recovered, leftovers, recover

__all__ = ["Journal", "Leftover", "Recovered", "leftovers", "recover"]
