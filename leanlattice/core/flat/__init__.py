"""Flat parts: flattening, lettering and sheets. Lengths here are in millimetres."""
