"""How a net is laid on a shape."""
