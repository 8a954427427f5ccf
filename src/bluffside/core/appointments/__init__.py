"""Appointments that people book.

offer.py   what a type of appointment offers: how long, how soon, with whom, how many at once
free.py    when it is free: a pure function of the offer, the hours, and what is taken
"""
