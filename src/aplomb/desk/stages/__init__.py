"""What stages and places are made from."""
