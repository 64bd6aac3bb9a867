"""Formulas as JSON, tables as CSV and XLSX, in and out."""
