"""What the work in processes of its own needs of libraries, loaded once before they are forked; no connection to the database is opened."""

import django
import openpyxl
import pandas

import noontide.core.electrical.parts_table
import noontide.core.scene.importers
import noontide.core.simulation.over_years
import noontide.core.weather.files

__all__ = ["noontide", "openpyxl", "pandas"]

django.setup()
