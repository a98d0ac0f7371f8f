"""Curves, surfaces and measures of polygons."""
