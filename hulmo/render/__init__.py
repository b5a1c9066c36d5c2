"""Draws a project into any framebuffer with OpenGL 3.3. Knows no window."""
