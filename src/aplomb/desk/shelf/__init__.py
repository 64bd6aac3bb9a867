"""The Shelf stage."""
