"""What surrounds the bodies: light and viewpoints."""
