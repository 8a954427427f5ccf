"""The rules of the job, pure: no Django, no database, no clock, no network, no randomness of its own.

    facts + program + signal + now  -->  engine.advance()  -->  next state + effects + reasons

timing/      durations, local times across clock changes, sending hours
conditions/  one typed expression over a contact: evaluated and described here
channels/    consent words, telling answers apart, whether a channel is open, parts of a text
messages/    merge fields and rendering
steps/       one file for each kind of step
triggers/    one file for each kind of trigger
workflow/    the document, its files, compiling, checks, the time line
engine/      advance(): states, signals, effects, reasons
rehearsal/   the same engine over a world in memory and made-up time; the command line
"""
