"""Steps, the cold and the oven in sentences."""
