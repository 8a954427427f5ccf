"""The conversation that books: what somebody means who is asked whether, and when, they want to come.

    windows.py    days and times of day at which somebody would come
    when.py       such windows, found in everyday English
    topics.py     what is asked, and who wants a person
    reading.py    one reading of what they wrote, given what had been said to them

Whatever can be read in two ways is *unclear*: nothing is booked by it, and a person looks.
"""
