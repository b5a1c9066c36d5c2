"""Fonts, icons, ground textures and shaders that come with the program."""
