"""Brushes that change the shape: one file each."""
