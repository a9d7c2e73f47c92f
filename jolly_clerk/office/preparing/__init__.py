"""What an applicant does: the way in, a draft with its files and signature, filing it, answering a letter."""
