"""What people see: the form, a draft, a case. Reading leaves nothing behind; :mod:`.opened` alone notes that somebody looked."""
