"""Devices at the bench, spoken to over a line protocol; each with a simulated stand-in."""
