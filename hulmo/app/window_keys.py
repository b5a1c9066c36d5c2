"""The keys of the window: which of them does what, wherever the keyboard's focus is."""

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtGui import QKeySequence, QShortcut

from hulmo.app.finder import Found
from hulmo.app.main_button import KEY
from hulmo.app.stages import STAGES
from hulmo.render.looks import LOOKS

if TYPE_CHECKING:
    from hulmo.app.main_window import MainWindow

ASKED = {
    "Ctrl+N": "new", "Ctrl+O": "open", "Ctrl+S": "save", "Ctrl+Shift+S": "save_as", "Home": "frame", "F9": "night",
}  # fmt: skip
"""What the heading's buttons ask for as well."""

COMMANDS = (
    ("new", "New", "Begins an empty project."),
    ("open", "Open", "Opens a project."),
    ("save", "Save", "Writes the project to its file."),
    ("save_as", "Save as", "Writes the project to another file."),
    ("frame", "Frame", "Shows all bodies."),
    ("night", "Night", "Dark panels, or light ones again."),
)
"""Name, label and help of what the heading does."""

STRENGTH = {"Shift+[": -5, "{": -5, "Shift+{": -5, "Shift+]": 5, "}": 5, "Shift+}": 5}
"""Percent by key, as keyboards have them."""


def findable(window: "MainWindow") -> list[Found]:
    """All that can be found by a word: tools, looks, and what the heading does."""
    out = [
        Found(tool.ident, tool.label, stage.label, f"{tool.help} {tool.group}", tool.icon,
              lambda tool=tool: window.route.press(tool))  # type: ignore[misc]
        for stage in STAGES
        for tool in stage.tools
    ]  # fmt: skip
    out += [
        Found(f"look {look.name}", look.label, "Look", look.help, "", lambda name=look.name: window.show_look(name))  # type: ignore[misc]
        for look in LOOKS.values()
    ]
    out += [
        Found(f"do {name}", label, "Command", text, name, lambda name=name: window.asked(name))  # type: ignore[misc]
        for name, label, text in COMMANDS
    ]
    session = window.session
    out.append(Found("do undo", "Undo", "Command", "Takes the last step back.", "undo", session.undo))
    out.append(Found("do redo", "Redo", "Command", "Does the last step again.", "redo", session.redo))
    return out


def declare_keys(window: "MainWindow") -> None:
    """Give a window its keys."""
    session, heading, hand = window.session, window.heading, window.canvas.hand
    does: dict[str, Callable[[], object]] = {
        KEY: window.press_main,
        "9": heading.inside.toggle,
        "C": heading.figure.click,
        "Ctrl+Z": session.undo,
        "Ctrl+Shift+Z": session.redo,
        "Ctrl+Y": session.redo,
        "Ctrl+F": lambda: window.finder.open(),
        "[": lambda: hand.change_radius(1 / 1.15),
        "]": lambda: hand.change_radius(1.15),
    }
    for stage in STAGES:
        does[stage.key] = lambda stage=stage: session.choose_stage(stage)  # type: ignore[misc]
        for tool in stage.tools:
            if tool.key:
                does[tool.key] = lambda tool=tool: window.route.press(tool)  # type: ignore[misc]
    does |= {look.key: lambda name=look.name: window.show_look(name) for look in LOOKS.values()}  # type: ignore[misc]
    does |= {text: lambda name=name: window.asked(name) for text, name in ASKED.items()}  # type: ignore[misc]
    does |= {text: lambda by=by: hand.change_strength(by) for text, by in STRENGTH.items()}  # type: ignore[misc]
    for text, act in does.items():
        shortcut = QShortcut(QKeySequence(text), window)
        shortcut.activated.connect(act)
        # a key that needs Shift on some keyboards fits two of them at once; one of the two is told then
        shortcut.activatedAmbiguously.connect(act)
    escape = QShortcut(QKeySequence("Escape"), window)  # only while something is waited for: fields use it, too
    escape.activated.connect(window.give_up)
    escape.setEnabled(False)
    session.tool_changed.connect(lambda: escape.setEnabled(bool(session.once)))
