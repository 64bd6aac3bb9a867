"""The Batch stage and the places beside it."""
