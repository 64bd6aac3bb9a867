"""The Folds stage and the pages beside it."""
