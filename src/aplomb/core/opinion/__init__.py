"""The second opinion: one rule, one function."""
