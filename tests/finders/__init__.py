"""Finders: they look for what tests with chosen input do not meet. Each is seeded."""
