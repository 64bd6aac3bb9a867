"""Over several formulas: the day’s demand, order list, costs, cut plans."""
