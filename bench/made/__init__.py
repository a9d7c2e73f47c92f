"""Papers as they arrive, made for measuring: what is on each is known, and each is disturbed as scans and photographs are."""
