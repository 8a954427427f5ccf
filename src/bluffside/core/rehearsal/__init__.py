"""Rehearsal: the same engine over a world in memory and made-up time.

rehearse.py  one contact through one workflow: a log of what happens, when and why
command.py   `./bluffside rehearse`: from files alone, with no database
"""
