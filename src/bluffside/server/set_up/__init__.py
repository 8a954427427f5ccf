"""Set-up: what an account is, and what holds for all that it sends. Each page says what depends on it."""
