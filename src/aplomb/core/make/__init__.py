"""The make: every step from the weighing to the tray, which every screen and paper is a view of."""
