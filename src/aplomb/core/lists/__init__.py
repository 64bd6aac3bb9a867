"""Lists of ingredients as people write them."""
