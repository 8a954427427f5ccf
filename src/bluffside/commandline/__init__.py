"""Commands that work from files alone, with no database: rehearse.py."""
