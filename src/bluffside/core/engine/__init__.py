"""The engine: one pure function, and the plain values it takes and gives.

state.py    where one enrolment stands
signals.py  what can happen to it
effects.py  what it decides to have done, as data
moves.py    what a step answers: go on, into a lane, stay, leave
turn.py     what a step sees and notes while it decides
advance.py  advance(): the loop that follows the moves
"""
