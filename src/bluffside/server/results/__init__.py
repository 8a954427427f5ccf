"""What came of it: sums by day, counted as things happen, and what they say.

models.py      the sums
counting.py    a day counted anew from its rows, whenever something of it has changed
day_sums.py    what a day's rows come to
joined.py      those who came in, and how many of them reached the aim; sent.py: what went out and what came of it
script.py      both along a workflow's script, and what they say is worth doing
account_api.py, workflow_api.py, tables_api.py    pages, and their tables as files; shown.py: rates and differences as shown
"""
