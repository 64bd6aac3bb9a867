"""The open book and the hand that changes it, without a window."""
