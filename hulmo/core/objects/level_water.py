"""Level waters: seas and lakes at a height, or at a radius of a moon."""

from hulmo.core.objects.water import OF_LEVEL, water_kind

LEVEL_WATER = water_kind(
    "level_water", "Level water", "Water at one height, or around a moon; land sticks out.", OF_LEVEL
)
