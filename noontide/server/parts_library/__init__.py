"""Modules and inverters, as the API lists them."""
