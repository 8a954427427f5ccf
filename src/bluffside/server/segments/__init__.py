"""Choosing people: conditions as SQL, segments that are kept by name, and what is done with many at once."""
