"""Outlines and tracks on the surface of a body: their curve, how far everything is from it, and what that shapes."""
