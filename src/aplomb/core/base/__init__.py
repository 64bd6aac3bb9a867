"""What all computation stands on: constants, errors, units, figures, the house."""
