"""The Folds stage and the places beside it."""
