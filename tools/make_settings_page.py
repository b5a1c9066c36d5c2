"""Writes docs/settings.md from the declarations: python tools/make_settings_page.py"""

import pathlib

from hulmo.core.settings_page import settings_page

PAGE = pathlib.Path(__file__).resolve().parent.parent / "docs" / "settings.md"

if __name__ == "__main__":
    PAGE.write_text(settings_page(), encoding="utf-8")
