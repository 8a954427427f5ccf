"""Rehearsal: the same engine over a world in memory and made-up time. Nothing real is sent.

world.py      any number of contacts and workflows, and a queue of what is to come
happening.py  what an event makes of a contact
coming.py     what comes by time alone: dates, appointments that are near, scores that fade
score_keeping.py  points for what happens, and for who somebody is, by time alone, too
ahead.py      one enrolment from where it stands, if nobody answers
rehearse.py   one contact through one workflow: a log of what happens, when and why
offers.py     what a contact may do at a wait
typical.py    a few contacts with whom every line is seen
keeping.py    a rehearsal kept as a scenario
scenarios.py  the scenarios of a document, played and judged
report.py     a rehearsal as data and as words
"""
