"""Where water stands over the bodies of a scene."""
