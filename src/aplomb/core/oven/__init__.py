"""The oven: its settings."""
