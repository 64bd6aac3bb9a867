"""The Batch stage and the pages beside it."""
