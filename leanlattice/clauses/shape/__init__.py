"""Chapter Shape: curves, shapes and operations on them."""
