"""Hubs at the nodes of structures, as solids."""
