"""A stand-in for a target: reads a delivered file and draws it by what stands in the file. It shares no code with what writes
files, so that it proves them."""
