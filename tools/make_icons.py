"""Writes the shipped icons: python tools/make_icons.py. Drawn for this program, on a 24 by 24 grid, in one line weight."""

import pathlib

FOLDER = pathlib.Path(__file__).resolve().parent.parent / "hulmo" / "assets" / "icons"

ICONS = {
    "sheet": '<path d="M3 15 10 9h11l-6.5 6z"/><path d="M6.6 12h11M8.6 15 15.6 9M14 15l4.4-4"/>',
    "disc": '<ellipse cx="12" cy="13" rx="9" ry="4"/><path d="M3 13h18M12 9v8"/>',
    "column": '<ellipse cx="12" cy="5.5" rx="5.5" ry="2.2"/><path d="M6.5 5.5v13c0 1.2 2.5 2.2 5.5 2.2s5.5-1 5.5-2.2v-13M6.5 12c0 1.2 2.5 2.2 5.5 2.2s5.5-1 5.5-2.2"/>',
    "icosphere": '<path d="M12 3 20 7.6v8.8L12 21l-8-4.6V7.6z"/><path d="M12 3 7.5 13.6h9zM4 7.6l3.5 6L12 21l4.500-7.400L20 7.6"/>',
    "box_sphere": '<circle cx="12" cy="12" r="9"/><path d="M12 12V21M12 12 4.6 7M12 12l7.400-5M4.600 7C7 4.600 17 4.600 19.400 7"/>',
    "block": '<path d="M4 8l8-4 8 4v8.500L12 20.500 4 16.500z"/><path d="M4 8l8 4 8-4M12 12v8.500"/>',
    "raise": '<path d="M2.500 19c5 0 5-7 9.500-7s4.500 7 9.500 7"/><path d="M12 9V3M9.500 5.500 12 3l2.500 2.500"/>',
    "smooth": '<path d="M2.500 8.500c2 0 2-4 4-4s2 5.500 4 5.500 2-5.500 4-5.500 2 4 4 4h3"/><path d="M2.500 18c5 0 5.500-3 9.500-3s4.500 3 9.500 3"/>',
    "lay": '<path d="M2.500 19.500h19"/><path d="M4 16c3-2.500 5-2.500 8 0s5 2.500 8 0"/><path d="M12 3v7M9.500 7.500 12 10l2.500-2.500"/>',
    "lift": '<path d="M2.500 19.500h19"/><path d="M4 16c2-1.700 3.500-2.200 5-1.800M20 16c-2 1.700-3.500 2.200-5 1.800"/><path d="M12 12V4.500M9.500 7 12 4.500 14.500 7"/>',
    "fill": '<path d="M3 10c3-2.500 6-2.500 9 0s6 2.500 9 0v9.500H3z"/><path d="M7 14v0M12 13.500v0M17 14v0M9.500 17v0M14.500 17v0"/>',
    "glb": '<path d="M12 2.500 18 6v6.500L12 16l-6-3.500V6z"/><path d="M6 6l6 3.500L18 6M12 9.500V16"/><path d="M4 20.500h16M16.500 18l3.500 2.500-3.500 2.500"/>',
    "ply": '<path d="M3.500 13 9 4l5 6 6-3"/><path d="M9 4 8 14l6-4M3.500 13 8 14"/><path d="M4 20.500h16M16.500 18l3.500 2.500-3.500 2.500"/>',
    "sun": '<circle cx="12" cy="12" r="4"/><path d="M12 2.500v3M12 18.500v3M2.500 12h3M18.500 12h3M5.300 5.300l2.100 2.100M16.600 16.600l2.100 2.100M18.700 5.300l-2.100 2.100M7.400 16.600l-2.100 2.100"/>',
    "new": '<path d="M6 3h8l4 4v14H6z"/><path d="M14 3v4h4M12 11v6M9 14h6"/>',
    "open": '<path d="M3 19V6h6l2 2.500h8V11"/><path d="M3 19l3.500-8H22l-3.500 8z"/>',
    "save": '<path d="M12 3v10M8.500 9.500 12 13l3.500-3.500"/><path d="M4 14v6h16v-6"/>',
    "save_as": '<path d="M10 3v8M7 8l3 3 3-3"/><path d="M3 13v7h9M14 20l6.500-7 1.500 1.500-6.500 7H14z"/>',
    "undo": '<path d="M8.500 5 4 9.500 8.500 14"/><path d="M4 9.500h10a6 5 0 0 1 0 10H9"/>',
    "redo": '<path d="M15.500 5 20 9.500 15.500 14"/><path d="M20 9.500H10a6 5 0 0 0 0 10h5"/>',
    "frame": '<path d="M3 8V3h5M16 3h5v5M21 16v5h-5M8 21H3v-5"/><circle cx="12" cy="12" r="3.500"/>',
    "night": '<path d="M19 14.500A8 8 0 1 1 9.500 5a6.500 6.500 0 0 0 9.500 9.500z"/>',
    "add": '<path d="M12 5v14M5 12h14"/>',
    "remove": '<path d="M5 12h14"/>',
    "subdivide": '<path d="M12 3 21.500 20h-19z"/><path d="M7.200 11.500h9.600L12 20z"/>',
    "reset": '<path d="M5 5v5h5"/><path d="M5.500 10a7.500 7.500 0 1 1-.8 5"/>',
    "stop": '<path d="M6 6l12 12M18 6 6 18"/>',
    "folder": '<path d="M3 19V6h6l2 2.500h10V19z"/>',
}

DOWN = (
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 12 12" fill="none" stroke="#84816f" stroke-width="1.6" '
    'stroke-linecap="round" stroke-linejoin="round"><path d="M2.5 4.5 6 8l3.5-3.500"/></svg>\n'
)

HEAD = (
    '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 24 24" fill="none" stroke="currentColor" stroke-width="1.6" '
    'stroke-linecap="round" stroke-linejoin="round">'
)

APP = """<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 64 64">
<rect width="64" height="64" rx="13" fill="#f1ecdf"/>
<path d="M6 46h52" stroke="#1f5f66" stroke-width="3.400" stroke-linecap="round"/>
<path d="M14 46 16 33l-3-4 5-5-1-7 8-5 7 3 8-3 6 8-2 6 5 4-3 7 3 9z" fill="#31393a"/>
<path d="M16 19l9-7 7 3 8-3 5 6-5 3-7-2-8 4-6-1z" fill="#7d8f4a"/>
<path d="M17 33l9-2 5 2 8-3 9 2-2 4-8-1-7 2-7-2-7 2z" fill="#cfc4a8"/>
<path d="M12 53h14M34 53h20M22 58h18" stroke="#1f5f66" stroke-width="2.600" stroke-linecap="round" opacity=".55"/>
</svg>
"""


def main() -> None:
    """Write all icons."""
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name, body in ICONS.items():
        (FOLDER / f"{name}.svg").write_text(f"{HEAD}{body}</svg>\n")
    (FOLDER / "down.svg").write_text(DOWN)
    (FOLDER / "hulmo.svg").write_text(APP)


if __name__ == "__main__":
    main()
