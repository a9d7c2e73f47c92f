"""Who is who: accounts, passwords, sessions."""
