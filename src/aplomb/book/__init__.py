"""The SQLite book, its history, settings and paths."""
