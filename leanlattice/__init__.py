"""Lean Lattice: freeform lattice structures from their shape to their cut parts."""

__version__ = "0.1.0"
