"""Demand: who uses electricity, when, and how much; sources that add up, hour by hour."""

from noontide.core.demand.hourly import HourlyDemand, hourly
from noontide.core.demand.sources import Source, Sources, read_sources
from noontide.core.demand.totals import ApplianceTotals, appliance_totals

__all__ = ["ApplianceTotals", "HourlyDemand", "Source", "Sources", "appliance_totals", "hourly", "read_sources"]
