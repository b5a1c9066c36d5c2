"""Contrast of the window's colours against WCAG 2.2 (W3C, 2023): 1.4.3 and 1.4.11, which the focus of 2.4.11 needs."""

import unittest

from hulmo.app.theme import DAY, NIGHT


def luminance(colour: str) -> float:
    """Relative luminance of #rrggbb, as WCAG 2.2 defines it."""
    parts = [int(colour[i : i + 2], 16) / 255 for i in (1, 3, 5)]
    r, g, b = (part / 12.92 if part <= 0.04045 else ((part + 0.055) / 1.055) ** 2.4 for part in parts)
    return 0.2126 * r + 0.7152 * g + 0.0722 * b


def contrast(one: str, two: str) -> float:
    """Contrast ratio, 1 to 21."""
    low, high = sorted((luminance(one), luminance(two)))
    return (high + 0.05) / (low + 0.05)


class ContrastTest(unittest.TestCase):
    def test_the_formula_on_its_known_ends(self) -> None:
        self.assertAlmostEqual(contrast("#000000", "#ffffff"), 21.0)
        self.assertAlmostEqual(
            contrast("#777777", "#ffffff"), 4.48, places=2
        )  # the usual example of a grey just too light

    def test_text_and_focus_stand_out(self) -> None:
        for theme in (DAY, NIGHT):
            for ground in (theme.panel, theme.page):
                for name in ("ink", "quiet", "warn"):
                    with self.subTest(theme=theme.name, text=name, ground=ground):
                        self.assertGreaterEqual(contrast(getattr(theme, name), ground), 4.5)
                with self.subTest(theme=theme.name, focus=ground):
                    self.assertGreaterEqual(contrast(theme.accent, ground), 3.0)
            with self.subTest(theme=theme.name, text="on accent"):
                self.assertGreaterEqual(contrast(theme.on_accent, theme.accent), 4.5)
                self.assertGreaterEqual(contrast(theme.accent, theme.wash), 4.5)


if __name__ == "__main__":
    unittest.main()
