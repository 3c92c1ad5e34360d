"""Shade: the horizon line and parallel rows."""
