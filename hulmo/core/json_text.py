"""Reading JSON that somebody else wrote."""

import json
from typing import Any, TypeVar

import msgspec

from hulmo.core.errors import FileProblem

Kind = TypeVar("Kind")


def plain_json(data: bytes | str, where: str) -> Any:
    """What a JSON text holds: dict, list, str, int, float, bool or None.

    Parameters
    ----------
    data : bytes or str
        Bytes are UTF-8.
    where : str
        Begins the message.

    Raises
    ------
    FileProblem
        It is no JSON, not in UTF-8, nested too deep, or has a whole number of thousands of digits.
    """
    try:
        return json.loads(data)
    except (ValueError, RecursionError) as error:  # of these are UnicodeDecodeError and JSONDecodeError
        raise FileProblem(f"{where} ({error})") from error


def typed_json(data: bytes, kind: type[Kind], where: str) -> Kind:
    """A record of one kind from a JSON text; see `plain_json`.

    Raises
    ------
    FileProblem
        As with `plain_json`, or it does not fit the record.
    """
    try:
        return msgspec.json.decode(data, type=kind)
    except (msgspec.DecodeError, ValueError, RecursionError, OverflowError) as error:
        raise FileProblem(f"{where} ({error})") from error
