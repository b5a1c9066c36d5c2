"""The cards on the right."""
