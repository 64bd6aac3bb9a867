"""Running a day at the bench: its clock, its presses on their way into the book, its words."""
