"""Ribs: flat plates cut from a body by planes, slotted into each other, and proved by putting them
together again."""
