"""Papers: batch card, lists, cut plan, allergens, labels; painted alike on screen and paper."""
