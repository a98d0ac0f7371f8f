"""Chapter Prove: whether a structure can be made, and stands."""
