"""Time: an instant is an aware datetime in UTC; a local time belongs to an IANA zone.

local.py        a wall-clock time in a zone as an instant, across clock changes
durations.py    "3 days", "90 minutes": exact hours, minutes and seconds, calendar days, weeks and months
hours.py        when messages may go out, and the next moment they may
weekdays.py     weekdays as documents write them
clock_times.py  times of day as documents write them
recurrence.py   rules that repeat (RFC 5545)
turning.py      when what goes by lengths of time comes out otherwise though nothing happens
yearly.py       a date that is kept each year, 29 February said plainly
words.py        instants and spans as people write them
"""
