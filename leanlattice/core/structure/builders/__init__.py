"""What structures are built from."""
