"""One body's triangle mesh: tables, connectivity, spatial index, base forms, measures."""
