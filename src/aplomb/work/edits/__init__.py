"""Edits of a formula's lines, of its plan of turns, of the pantry."""
