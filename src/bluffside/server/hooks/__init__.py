"""Requests to other systems: kept, signed, tried again, and never into the private network unasked."""
