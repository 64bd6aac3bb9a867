"""Learning from trials: what changes what, how sure that is, what was tasted."""
