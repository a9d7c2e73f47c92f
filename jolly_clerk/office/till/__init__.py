"""The till of the office: drawers, statements of the bank, where money is placed, and what goes out."""
