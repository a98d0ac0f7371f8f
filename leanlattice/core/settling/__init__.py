"""Nets let go between what holds, pushes and aims, and what holds them in the end."""
