"""Papers: one painter for PDF, printer and preview."""
