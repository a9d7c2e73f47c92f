"""What an officer and a reviewer do with a case: check, ask, decide, write."""
