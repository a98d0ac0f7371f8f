"""Chapter Lattice."""
