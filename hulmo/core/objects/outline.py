"""Outlines: closed lines on a body, which carry ground, cuts and relief inside."""

from hulmo.core.objects.line import line_kind

OUTLINE = line_kind("outline", "Outline", "A closed line on the ground; it carries ground, cuts and relief.")
