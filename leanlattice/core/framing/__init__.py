"""Members, nodes, panels, sections and their labels."""
