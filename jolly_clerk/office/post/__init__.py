"""What leaves the office: letters and receipts as PDF, the outbox, mail."""
