"""The rules of the job, pure: no Django, no database, no clock, no network, no randomness of its own.

    facts + program + signal + now  -->  engine.advance()  -->  next state + effects + reasons

timing/      durations, local times across clock changes, sending hours, rules that repeat
care/        quiet and opening hours, holidays, message limits, human pause, pace, trickle: an account's house rules
facts.py     what a decision is taken on; events.py: what can happen; terms.py: channels and purposes
scoring/     lead score: its closed form, an account's rules
conditions/  one typed expression over a contact: evaluated and described here
channels/    opt-out words, telling answers apart, whether a channel is open, choosing one, parts of a text
messages/    merge fields and rendering
triggers/    one file for each kind of trigger: what starts a workflow, what a step waits for, what people leave on
steps/       one file for each kind of step
workflow/    the document, its files, compiling, checks, the time line, differences, moves between versions
engine/      advance(): states, signals, effects, reasons
rehearsal/   the same engine over a world in memory and made-up time; scenarios
"""
