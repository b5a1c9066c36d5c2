"""Props: what stands on the ground in numbers, and the tray that it is taken from."""
