"""The colours that tell grounds apart where each has one."""

KEY: tuple[tuple[float, float, float], ...] = (
    (0.26, 0.30, 0.38), (0.86, 0.72, 0.42), (0.33, 0.55, 0.48), (0.72, 0.42, 0.30), (0.60, 0.74, 0.86), (0.48, 0.34, 0.52),
    (0.80, 0.82, 0.62), (0.20, 0.44, 0.60), (0.90, 0.58, 0.54), (0.42, 0.42, 0.26), (0.76, 0.66, 0.78), (0.14, 0.28, 0.26),
    (0.94, 0.88, 0.78), (0.56, 0.22, 0.26), (0.52, 0.62, 0.64), (0.40, 0.26, 0.16),
)  # fmt: skip
"""One colour for every place in the palette, sRGB 0 to 1: apart in lightness as well as in hue."""
