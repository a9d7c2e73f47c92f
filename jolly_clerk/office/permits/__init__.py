"""What happens to a permit after it was issued: short filings on it, and inspections."""
