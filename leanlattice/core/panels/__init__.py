"""Panels, how they sit on members, and their solids."""
