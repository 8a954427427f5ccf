"""Care: when and how often an account may speak to somebody, and how fast.

house.py     all of it as one model, an account's house rules
quiet.py     quiet hours, per channel and purpose, and opening hours
calendar.py  public holidays
limits.py    at most so many messages over some days, across workflows, and who goes first
pause.py     a human pause: varying, but the same for the same key
pace.py      speed per sender: a token bucket
trickle.py   enrolling many a few at a time, with the finishing date
"""
