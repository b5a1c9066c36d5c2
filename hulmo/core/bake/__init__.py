"""Images of what lies on a body, by its texture coordinates."""
