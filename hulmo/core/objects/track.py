"""Tracks: open lines of some width on a body, which carry ground, cuts and relief."""

from hulmo.core.objects.line import line_kind

TRACK = line_kind("track", "Track", "An open line of some width on the ground; it carries ground, cuts and relief.")
