"""The Oven stage: programmes, loads, what physics can say, and keeping."""
