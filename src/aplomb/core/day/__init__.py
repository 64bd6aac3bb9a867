"""The day: steps, what they need, and a timetable that holds."""
