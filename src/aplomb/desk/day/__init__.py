"""The Day: a timetable over several pastes, solved, moved, and given out."""
