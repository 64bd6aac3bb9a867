"""From a formula to a batch: masses, blocks, pieces, sheets, trays, weighing."""
