"""Structures: members that run through nodes."""
