"""What contacts write, as the team works with it: who waits, whose it is, what was said, answered in place."""
