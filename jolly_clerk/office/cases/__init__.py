"""What everybody does with cases: load and change one, list them, pay, end one, and what the clock does by itself."""
