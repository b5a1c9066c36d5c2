"""Deliveries to a target: what it can take, levels of detail, patches, and all of it written at once."""
