"""Kernels of local remeshing, one step a file."""
