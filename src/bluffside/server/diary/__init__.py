"""The team's tasks: calls and to-dos, and what came of them."""
