"""All that is shown of a formula in one go; two side by side; backwards from a reading."""
