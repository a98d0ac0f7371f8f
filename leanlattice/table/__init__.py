"""A small simulated cutting table: a device of its own, which knows of sheets what stands in their
DXF alone."""
