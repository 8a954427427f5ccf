"""What came of it: sums by day, counted as things happen, and what they say.

models.py      the sums
counting.py    a day counted anew from its rows, whenever something of it has changed
day_sums.py    what a day's rows come to
"""
