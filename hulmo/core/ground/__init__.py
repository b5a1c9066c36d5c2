"""Ground materials, weights, and the brushes that paint them."""
