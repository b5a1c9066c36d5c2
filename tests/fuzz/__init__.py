"""Trying to break Hulmo with damaged files and random commands: python -m tests.fuzz --help."""
