"""Chapter Frame: structures begun, gone on with and joined."""
