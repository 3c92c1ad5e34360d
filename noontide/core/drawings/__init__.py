"""Sheets of paper that are drawn from a simulated design."""
