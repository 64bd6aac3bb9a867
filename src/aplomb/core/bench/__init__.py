"""Running a day at the bench: what is to be done, what was pressed, and what follows from both."""
