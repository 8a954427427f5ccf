"""Deals as people work with them: which stand where, what happens next about each, moved and taken back."""
