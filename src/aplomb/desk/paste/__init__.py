"""The Paste stage and the places beside it."""
