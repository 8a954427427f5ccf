"""Lead score: points for who somebody is and what they do, with limits and fading over time.

sheet.py  the score of one contact: its sum at any instant in closed form, and what it is made of
rules.py  an account's rules: which events and conditions earn points
"""
