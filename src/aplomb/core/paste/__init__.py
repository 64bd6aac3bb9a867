"""Materials, formulas, what they add up to, and one material for another."""
