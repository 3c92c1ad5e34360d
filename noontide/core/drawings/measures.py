"""Measures of the one-line diagram and its schedule [mm]."""

MARGIN = 7.0
TITLE_HEIGHT = 16.0
HEAD = 14.0  # over the first row
LETTER = 2.9
SCHEDULE_LINE = 4.6
INVERTER_WIDTH = 14.0
