"""A short run of what `python -m tests.fuzz` does at length; here always the same cases, there new ones."""

import logging
import time
import unittest
import warnings

from tests.fuzz.commands import Commands
from tests.fuzz.files import Files

SECONDS = 40.0

SEED = 20_261_126


class FuzzTest(unittest.TestCase):
    def test_damaged_files_are_refused_or_work_wholly(self) -> None:
        logging.getLogger("trimesh").setLevel(logging.CRITICAL)
        self.addCleanup(logging.getLogger("trimesh").setLevel, logging.WARNING)
        files = Files(SEED)
        end = time.monotonic() + SECONDS
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            while time.monotonic() < end:
                self.assertIsNone(files.case())
        self.assertGreater(files.counts["opened"], 3)
        self.assertGreater(files.counts["refused"], 30)

    def test_random_commands_are_undone_and_done_again_to_the_same_bytes(self) -> None:
        commands = Commands(SEED)
        end = time.monotonic() + SECONDS
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            while time.monotonic() < end:
                self.assertIsNone(commands.round(40))
        self.assertGreater(commands.counts["done"], 30)


if __name__ == "__main__":
    unittest.main()
