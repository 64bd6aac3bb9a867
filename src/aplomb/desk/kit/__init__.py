"""Small pieces that every room of the desk uses; they know of no book."""
