"""Trials: begun from a batch, said in words, put into a report, the next one laid into the day."""
