"""Letters: emails written in lines, as workflows are, and compiled to what mail programs show.

document.py   a letter: its lines, and it as plain words
inline.py     words within a line: bold, italic, links, merge fields (as CommonMark writes them)
sheet.py      what is being compiled: MJML in which everything somebody wrote is a slot
compiling.py  a letter in an account's look, compiled once; filled for each person
lines/        the kinds of line, one file a kind
"""
