"""The Paste stage and the pages beside it."""
