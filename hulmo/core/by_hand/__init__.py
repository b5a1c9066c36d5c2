"""Vertices, edges and faces worked on one by one: what is chosen, and what the hand does to it."""
