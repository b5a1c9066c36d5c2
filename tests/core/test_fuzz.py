"""A short run of what `python -m tests.fuzz` does at length, with a new seed each time."""

import logging
import time
import unittest
import warnings

from tests.fuzz.commands import Commands
from tests.fuzz.files import Files

SECONDS = 40.0


class FuzzTest(unittest.TestCase):
    def test_damaged_files_are_refused_or_work_wholly(self) -> None:
        logging.getLogger("trimesh").setLevel(logging.CRITICAL)
        self.addCleanup(logging.getLogger("trimesh").setLevel, logging.WARNING)
        seed = int(time.time())
        files = Files(seed)
        end = time.monotonic() + SECONDS
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            while time.monotonic() < end:
                self.assertIsNone(files.case(), f"seed {seed}")
        self.assertGreater(files.counts["opened"], 3)
        self.assertGreater(files.counts["refused"], 30)

    def test_random_commands_are_undone_and_done_again_to_the_same_bytes(self) -> None:
        seed = int(time.time())
        commands = Commands(seed)
        end = time.monotonic() + SECONDS
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            while time.monotonic() < end:
                self.assertIsNone(commands.round(40), f"seed {seed}")
        self.assertGreater(commands.counts["done"], 30)


if __name__ == "__main__":
    unittest.main()
