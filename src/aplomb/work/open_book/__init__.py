"""The book that is open: its formulas, the one in hand, its store, undo and writing behind."""
