"""Running the day with floury hands."""
