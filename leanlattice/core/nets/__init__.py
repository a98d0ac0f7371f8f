"""Changes of nets that are laid already."""
