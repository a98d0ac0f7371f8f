"""Chapter Settle: what holds and pushes a net, what it aims for, and letting it go."""
