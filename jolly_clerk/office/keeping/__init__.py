"""The office as a whole: made, copied, restored, verified."""
