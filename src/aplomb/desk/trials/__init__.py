"""The Trials stage: bakes measured, compared, learned from, and the next one asked for."""
