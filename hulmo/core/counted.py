"""Numbers of things in words."""


def counted(count: int, one: str, many: str = "") -> str:
    """A count with its noun.

    Examples
    --------
    >>> counted(1, "vertex", "vertices"), counted(1200, "step")
    ('1 vertex', '1,200 steps')
    """
    return f"{count:,} {one if count == 1 else many or one + 's'}"
