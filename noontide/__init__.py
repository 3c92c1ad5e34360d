"""Noontide: design solar power plants and answer for the numbers."""

__version__ = "0.1.0"
