"""The reference of all settings and commands, made from their declarations."""

import inspect
import re
from typing import get_type_hints

import msgspec

from hulmo.core.brushes import BRUSHES
from hulmo.core.care import CHECKS
from hulmo.core.commands import COMMANDS
from hulmo.core.ground.measures import MEASURES
from hulmo.core.io.exporters import EXPORTERS
from hulmo.core.mesh.forms import FORMS
from hulmo.core.objects.lamp import SETTINGS as LAMP
from hulmo.core.objects.line import SETTINGS as LINES
from hulmo.core.objects.water import OF_LEVEL
from hulmo.core.props.strew import SETTINGS as STREW
from hulmo.core.relief import LIMITS, RELIEFS
from hulmo.core.sculpt.brush import SHARED
from hulmo.core.setting import Choice, Colour, Curve, Number, Picture, Setting, Text

COMMON = {
    "body": "Name of a body.",
    "ground": "Name of a ground.",
    "layer": "Name of a relief layer.",
    "name": "A name.",
}
"""What is said of values that no command says more of."""


def settings_page() -> str:
    """Markdown text of docs/settings.md."""
    lines = ["# Settings and commands", "", "Made from the declarations in the code; do not edit by hand.", ""]
    lines += ["## Brushes", "", "All brushes share these settings:", "", *_table(SHARED)]
    for brush in BRUSHES.values():
        own = ", ".join(f"{name} {value}" for name, value in brush.defaults)
        lines += [f"### {brush.label} (`{brush.name}`, key {brush.key})", "", brush.help, ""]
        if own:
            lines += [f"Starts with {own}.", ""]
        if brush.settings:
            lines += _table(brush.settings)
    lines += ["## Base forms", ""]
    for form in FORMS.values():
        lines += [f"### {form.label} (`{form.name}`)", "", form.help, "", *_table(form.settings)]
    lines += [
        "## Relief of whole bodies",
        "",
        "Every relief has these limits besides its own settings:",
        "",
        *_table(LIMITS),
    ]
    for relief in RELIEFS.values():
        lines += [f"### {relief.label} (`{relief.name}`)", "", relief.help, "", *_table(relief.settings)]
    lines += ["## Mesh care", "", "What Mesh care looks for; `cure` mends it on the spot, `weld` double vertices.", ""]
    lines += ["| check | | limit | default | |", "|---|---|---|---|---|"]
    for check in CHECKS.values():
        limit = check.limit
        unit = f" {limit.unit}" if limit.unit else ""
        lines.append(
            f"| `{check.name}` | {check.label} | {limit.low:g} to {limit.high:g}{unit} | {limit.default:g}{unit} | "
            f"{check.help} |"
        )
    lines += ["", "## Measures", "", "What conditions of ground rules, of Fill and of Choose can ask for.", ""]
    for measure in MEASURES.values():
        lines += [f"### {measure.label} (`{measure.name}`, {measure.unit})", "", measure.help, ""]
        if measure.settings:
            lines += _table(measure.settings)
    lines += [
        "## Waters",
        "",
        "Values of level waters (`level_water`); ponds (`pond`) have no size.",
        "",
        *_table(OF_LEVEL),
    ]
    lines += ["## Lamps", "", "Values of a `lamp`.", "", *_table(LAMP)]
    lines += ["## Strewing", "", "What `strew` takes; strew rules take all but the first two.", "", *_table(STREW)]
    lines += ["## Outlines and tracks", "", "What `add_line` and `change_line` take as settings.", "", *_table(LINES)]
    lines += ["## Export", ""]
    for exporter in EXPORTERS.values():
        lines += [f"### {exporter.label} (`.{exporter.ending}`)", "", exporter.help, ""]
        if exporter.settings:
            lines += _table(exporter.settings)
    lines += ["## Commands", "", "What a recipe can hold. Values with a default may be left out.", ""]
    for command in COMMANDS:
        text = inspect.getdoc(command) or ""
        words, told = _told(text)
        lines += [f"### `{command.__struct_config__.tag}`", "", *words]
        hints = get_type_hints(command)
        rows = []
        for field in msgspec.structs.fields(command):
            plain = str(getattr(hints[field.name], "__name__", hints[field.name])).replace("typing.", "")
            default = "needed" if field.required else f"`{_default(field)}`"
            said = told.get(field.name) or COMMON.get(field.name, "")
            rows.append(f"| `{field.name}` | {plain.replace('|', 'or')} | {default} | {said} |")
        if rows:
            lines += ["| value | kind | default | |", "|---|---|---|---|", *rows, ""]
    return "\n".join(lines).rstrip() + "\n"


def _told(text: str) -> tuple[list[str], dict[str, str]]:
    # paragraphs of a docstring, and what its section Attributes says of each field
    words, _, listed = text.partition("\n\nAttributes\n----------\n")
    told: dict[str, str] = {}
    for names, said in re.findall(r"^(\w[^\n]*)\n((?:    [^\n]*\n?)+)", listed, re.MULTILINE):
        one = " ".join(line.strip() for line in said.strip().splitlines())
        told |= {name.strip(): one for name in names.partition(" : ")[0].split(",")}
    return [line for part in words.split("\n\n") for line in (part.replace("\n", " "), "")], told


def _default(field: msgspec.structs.FieldInfo) -> object:
    if field.default is not msgspec.NODEFAULT:
        return field.default
    assert callable(field.default_factory)
    return field.default_factory()


def _table(settings: tuple[Setting, ...]) -> list[str]:
    rows = ["| setting | | range | default | |", "|---|---|---|---|---|"]
    for setting in settings:
        if isinstance(setting, Number):
            unit = f" {setting.unit}" if setting.unit else ""
            span, default = f"{setting.low:g} to {setting.high:g}{unit}", f"{setting.default:g}{unit}"
        elif isinstance(setting, Choice):
            span, default = ", ".join(value for value, _, _ in setting.choices), setting.default
        elif isinstance(setting, Colour | Picture | Text):
            span = {Colour: "#rrggbb", Picture: "shipped image or file", Text: "text"}[type(setting)]
            default = setting.default or "empty"
        elif isinstance(setting, Curve):
            span, default = "points", ", ".join(f"({x:g}, {y:g})" for x, y in setting.default)
        else:
            span, default = "true, false", str(setting.default).lower()
        rows.append(f"| `{setting.name}` | {setting.label} | {span} | {default} | {setting.help} |")
    return [*rows, ""]
