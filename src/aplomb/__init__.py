"""Aplomb: a workbench for laminated paste without yeast."""

__version__ = "0.13.0"
