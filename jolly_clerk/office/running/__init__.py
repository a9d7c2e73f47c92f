"""Running the office from the browser: its condition, its settings, its registers."""
