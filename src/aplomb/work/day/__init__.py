"""The day's timetable: what is asked, how it is moved, solved beside, shown and said."""
