"""Damaging files: bytes, archives, JSON texts and tables."""

import io
import json
import random
import zipfile
from typing import Any

import numpy as np

NASTY: tuple[Any, ...] = (
    None, True, False, 0, -1, 1, 2, 255, 65536, 2**31, 2**63, -(2**63), 10**30, 0.5, -0.5, 1e-30, 1e30, 1e300, -1e300,
    "", " ", "x" * 5000, "<b>bold</b>", "../../x", "\u2028\u2029\x85", "Body", "Dark basalt", "nan", [], {}, [[]],
    [1, 2, 3], {"a": 1}, ["a", None], "#ff00ff", "\U0001faa8",
)  # fmt: skip

RAW = (
    b"1e999",
    b"-1e999",
    b"NaN",
    b"Infinity",
    b"1" * 401,
    b'"\\ud800"',
    b"[" * 3000,
    b'{"a":' * 3000,
    b"\xff\xfe",
    b"00",
    b"'",
)


def damaged_bytes(rng: random.Random, data: bytes) -> bytes:
    """Flipped, cut, doubled, overwritten or swapped bytes."""
    out = bytearray(data)
    for _ in range(rng.choice((1, 1, 2, 5, 30))):
        if not out:
            break
        at = rng.randrange(len(out))
        kind = rng.randrange(6)
        if kind == 0:
            out[at] ^= 1 << rng.randrange(8)
        elif kind == 1:
            out[at] = rng.choice((0, 255, 127, 128, 10, 32, 45, 48, 57))
        elif kind == 2:
            del out[at:]
        elif kind == 3:
            del out[at : at + rng.randrange(1, 200)]
        elif kind == 4:
            out[at:at] = out[max(0, at - rng.randrange(1, 200)) : at]
        else:
            size = rng.choice((4, 8))
            out[at : at + size] = rng.choice((b"\xff" * size, b"\0" * size, b"\x7f" + b"\xff" * (size - 1)))
    return bytes(out)


def damaged_json(rng: random.Random, data: bytes) -> bytes:
    """Values replaced, dropped, doubled or moved anywhere in a JSON text; sometimes what is no JSON at all."""
    try:
        document = json.loads(data)
    except (ValueError, RecursionError):
        return damaged_bytes(rng, data)
    for _ in range(rng.choice((1, 1, 1, 2, 4))):
        try:
            places = list(_places(document))
        except RecursionError:  # damaged before, and nested deep
            return damaged_bytes(rng, data)
        if not places:
            return json.dumps(rng.choice(NASTY)).encode()
        holder, key = rng.choice(places)
        kind = rng.randrange(7)
        if kind < 4:
            holder[key] = rng.choice(NASTY)
        elif kind == 4:
            del holder[key]
        elif kind == 5:
            other, name = rng.choice(places)
            holder[key] = json.loads(json.dumps(other[name])) if _there(other, name) else None
        elif isinstance(holder, list):
            holder.extend(holder[:1] * rng.choice((1, 3, 50)))
    try:
        text = json.dumps(document).encode()
    except (ValueError, RecursionError):
        return data  # a part was put into itself
    if rng.random() < 0.06:
        at = rng.randrange(len(text))
        text = text[:at] + rng.choice(RAW) + text[at + rng.randrange(3) :]
    return text


def damaged_table(rng: random.Random, data: bytes) -> bytes:
    """A .npy of other values, shape or type."""
    try:
        values = np.load(io.BytesIO(data))
    except (ValueError, EOFError):
        return damaged_bytes(rng, data)
    kind = rng.randrange(8)
    if kind == 0 and values.size:
        values.reshape(-1)[rng.randrange(values.size)] = np.array(rng.choice((0, -1, 7, 2**30))).astype(values.dtype)
    elif kind == 1 and values.dtype.kind == "f" and values.size:
        values.reshape(-1)[rng.randrange(values.size)] = rng.choice((np.nan, np.inf, -np.inf, 3e38, -1e30, 1e9, -0.0))
    elif kind == 2:
        values = values[: len(values) // 2]
    elif kind == 3:
        values = values.astype(rng.choice(("f8", "i8", "u1", "f2", "c8", "S3")))
    elif kind == 4:
        values = np.asfortranarray(values)
    elif kind == 5 and len(values):
        values[rng.randrange(len(values)) :] = values[rng.randrange(len(values))]
    elif kind == 6:
        values = np.repeat(values, 2, axis=values.ndim - 1)
    else:
        values = values * 0
    stream = io.BytesIO()
    np.save(stream, values)
    return stream.getvalue()


def damaged_archive(rng: random.Random, data: bytes) -> bytes:
    """A ZIP with one or two entries damaged, gone, doubled or under another name; or damaged as a whole."""
    if rng.random() < 0.25:
        return damaged_bytes(rng, data)
    with zipfile.ZipFile(io.BytesIO(data)) as archive:
        entries = {info.filename: archive.read(info) for info in archive.infolist()}
    for _ in range(rng.choice((1, 1, 2))):
        name = "project.json" if rng.random() < 0.55 else rng.choice(list(entries))
        if name not in entries:
            continue
        roll = rng.random()
        if roll < 0.06:
            del entries[name]
        elif roll < 0.1:
            entries[rng.choice(("../x", "bodies/1/normal.npy", "a/b", name.upper()))] = entries[name]
        elif name.endswith(".json"):
            entries[name] = damaged_json(rng, entries[name])
        elif name.endswith(".npy") and roll < 0.8:
            entries[name] = damaged_table(rng, entries[name])
        else:
            entries[name] = damaged_bytes(rng, entries[name])
    stream = io.BytesIO()
    with zipfile.ZipFile(stream, "w", rng.choice((zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED))) as archive:
        for name, content in entries.items():
            archive.writestr(name, content)
    return stream.getvalue()


def damaged_text(rng: random.Random, data: bytes) -> bytes:
    """Lines of a text format cut, dropped, doubled, or with other numbers in them."""
    if rng.random() < 0.2:
        return damaged_bytes(rng, data)
    lines = data.split(b"\n")
    for _ in range(rng.choice((1, 1, 2, 6))):
        at = rng.randrange(len(lines))
        words = lines[at].split()
        kind = rng.randrange(6)
        if kind == 0:
            del lines[at]
        elif kind == 1:
            lines.insert(at, lines[at])
        elif words and kind == 2:
            lines[at] = b" ".join(words[: rng.randrange(len(words)) + 1])
        elif words:
            words[rng.randrange(len(words))] = rng.choice(
                (
                    b"nan",
                    b"inf",
                    b"1e39",
                    b"1e400",
                    b"-1",
                    b"0",
                    b"99999999999",
                    b"x",
                    b"",
                    b"1/2/3",
                    b"-7//",
                    b"1e-45",
                    b"\xff",
                )
            )
            lines[at] = b" ".join(words)
        if not lines:
            break
    return b"\n".join(lines)


def _places(value: Any) -> Any:
    if isinstance(value, dict):
        for key in value:
            yield value, key
            yield from _places(value[key])
    elif isinstance(value, list):
        for i in range(min(len(value), 12)):
            yield value, i
            yield from _places(value[i])


def _there(holder: Any, key: Any) -> bool:
    return key in holder if isinstance(holder, dict) else key < len(holder)
