"""Statistics, a page a method; each says what it assumes, and what it is checked against.

share.py           a share of so many, with Wilson's interval
said.py            shares and differences in words
added.py           two shares at the end of a set time: what one has over the other (Newcombe)
compared.py        two shares: how much one is larger, looked at as often as one likes (a confidence sequence)
ways_to_end.py     how long until something ends, and in which of several ways, counting what has not ended yet (Aalen–Johansen)
worth_to_come.py   what open deals will bring, by month, by drawing many times
learned_points.py  points for rules, learned from what became of people
"""
