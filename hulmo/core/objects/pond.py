"""Ponds: water that fills the hollow it was poured into."""

from hulmo.core.objects.water import OF_POND, water_kind

POND = water_kind("pond", "Pond", "Water that fills a hollow of the ground up to a level.", OF_POND)
