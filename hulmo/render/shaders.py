"""Loading the shipped shaders: includes and variants."""

import pathlib
from collections.abc import Iterator, Mapping

import moderngl

import hulmo.assets

FOLDER = pathlib.Path(hulmo.assets.__file__).parent / "shaders"

SWITCHES = (
    "WEIGHTED", "TINTED", "HANDED", "BY_UV", "LOOK_GROUND", "LOOK_NORMAL", "LOOK_ROUGH", "LOOK_SHARE",
    "LOOK_VIEWS", "LOOK_MESH", "LOOK_STRETCH", "LOOK_COARSE", "CURVED", "CONTACT", "BROKEN", "VARIED", "ADJUSTED", "TURNED",
    "FACETED", "GROUPS", "MOST_GROUNDS", "BANKS", "GATHERED", "FLAT_FACES",
    "STRETCHED", "HASTY",
)  # fmt: skip
"""What shaders can be told when they are compiled: yes or no, or a number."""


def source(name: str, switches: Mapping[str, int]) -> str:
    """Text of a shader with its includes, and each switch defined as a number; 0 where none is given."""
    out = []
    for line in _lines(name):
        out.append(line)
        if line.startswith("#version"):
            out.extend(f"#define {key} {int(switches.get(key, False))}" for key in SWITCHES)
    return "\n".join(out) + "\n"


def _lines(name: str) -> Iterator[str]:
    for line in (FOLDER / name).read_text(encoding="utf-8").splitlines():
        if line.startswith("#include "):
            yield from _lines(line.split()[1])
        else:
            yield line


def program(
    context: moderngl.Context, vertex: str, fragment: str, geometry: str | None = None, **switches: int
) -> moderngl.Program:
    """Compile a program from shipped files."""
    return context.program(
        vertex_shader=source(vertex, switches),
        fragment_shader=source(fragment, switches),
        geometry_shader=None if geometry is None else source(geometry, switches),
    )


def set_uniforms(target: moderngl.Program, **values: object) -> None:
    """Set the uniforms a program has; those the compiler dropped are passed over."""
    for name, value in values.items():
        member = target.get(name, None)
        if isinstance(member, moderngl.Uniform):
            if isinstance(value, bytes):
                member.write(value)
            else:
                member.value = value
