"""What the work in processes of its own needs of libraries, loaded once before they are forked; no connection to the database is opened."""

import gc
from importlib import import_module

import django
import openpyxl
import pandas

import noontide.core.behind_meter.over_years
import noontide.core.electrical.parts_table
import noontide.core.exchange
import noontide.core.scene.importers
import noontide.core.trials
import noontide.core.weather.files

__all__ = ["noontide", "openpyxl", "pandas"]

# Where the readers of files are that stand beside their views; with the models, which want the settings first.
READERS = (
    "noontide.server.demand_library.views",
    "noontide.server.parts_library.views",
    "noontide.server.places.horizon_view",
    "noontide.server.places.region",
    "noontide.server.recognising",
    "noontide.server.weather_library.reading",
)

django.setup()
for reader in READERS:
    import_module(reader)
# A look for garbage would write to the pages of all of it, and each process would have them for itself.
gc.collect()
gc.freeze()
