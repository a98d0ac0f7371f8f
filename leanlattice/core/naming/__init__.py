"""Numbers that follow position, and names and types of all that a structure has."""
