"""Brushes that change ground weights: one file each."""
