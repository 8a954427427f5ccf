"""Channels: the words that opt out, opt in or ask for help, telling answers apart, whether a channel is
open and why not, choosing one (reach), the parts of a text.

keywords.py    opt-out, opt-in and help words, by published lists
answers.py     what a short answer means, and how sure that is; which lane's answer it is
own_words.py   a reply without quotation and signature
consent.py     whether a channel is open to a contact for a purpose
reach.py       the first channel that is preferred, allowed and works
text_parts.py  how many parts a carrier splits a text into
"""
