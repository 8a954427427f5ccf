"""Messages: what merge fields there are, and a body rendered for one contact; the line under it."""
