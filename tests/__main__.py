"""Runs tests and closes with a line that counts them: python -m tests [unittest names]."""

import sys
import unittest

suite = (
    unittest.defaultTestLoader.loadTestsFromNames(sys.argv[1:])
    if sys.argv[1:]
    else unittest.defaultTestLoader.discover("tests", top_level_dir=".")
)
result = unittest.TextTestRunner(verbosity=2).run(suite)
bad = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses)
good = result.testsRun - bad - len(result.skipped)
print(f"{good} passed, {bad} failed, {len(result.skipped)} skipped", flush=True)
sys.exit(bool(bad) or result.testsRun == 0)
