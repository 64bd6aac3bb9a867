"""What each figure of a formula means; the likeliest other fats."""
