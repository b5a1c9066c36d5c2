"""Names that files can have."""

import re


def safe_name(name: str) -> str:
    """A name that every file system and reader takes."""
    return re.sub(r"[^A-Za-z0-9_.-]", "_", name).strip(".") or "body"


def file_name(name: str, instead: str = "body") -> str:
    """A name as near to what was typed as most file systems take."""
    kept = "".join("-" if sign in '/\\:*?"<>|' or not sign.isprintable() else sign for sign in name)
    return kept.strip(" .") or instead
