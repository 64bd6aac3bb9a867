"""What stages and pages are made from."""
