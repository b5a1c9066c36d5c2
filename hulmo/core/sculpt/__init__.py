"""The stroke engine: sampling, regions, how a stroke adds up. Brushes of the shape are in `brushes`."""
