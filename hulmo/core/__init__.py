"""The computation. Nothing in here knows of a window or of OpenGL."""
