"""Fields: one widget for each kind of setting."""
