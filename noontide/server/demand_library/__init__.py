"""Interval data of meters: files that were read, their readings, and the series that designs name by their digest."""
