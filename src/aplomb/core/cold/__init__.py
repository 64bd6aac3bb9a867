"""Heat: properties of dough and fat, water and ice for a mix."""
