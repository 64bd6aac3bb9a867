"""Plans of turns: leaves, sections, sheets, motion, claims."""
