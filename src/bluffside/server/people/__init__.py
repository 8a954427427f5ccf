"""Contacts with their tags and consent, and bringing them in from a file."""
