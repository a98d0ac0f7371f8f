"""Solids of a material: pieces of bodies, blocks, shells."""
