"""A batch under the hand: weighed out, and what is kept of it."""
