"""The rib route: waffles, ribs along a spine or in a round, and slices."""
