"""How shapes are made and changed: from curves, cages, outlines and files, and by operations on
them."""
