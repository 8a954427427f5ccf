"""The server: Django, one app for each area, each with models, services (writes), queries (reads) and api.

practice/   the practice, its accounts, the people who sign in, the clock, entering an account's walls
events/     the one stream of domain events, recorded with each change and handed on once
people/     contacts, tags, fields, lists, consent, imports
messaging/  the outbox and its delivery, carriers, mail that comes in, replies, links
diary/      the team's tasks and notices, appointments
pipeline/   pipelines with their stages, deals on them
hooks/      requests to other systems
workflows/  drafts, versions, enrolments, the engine's batches, what comes by the calendar, the lead score
deals/      the table of a pipeline: what happens next about each deal, moving them, taking it back
outside/    simulated carrier, phones, mailboxes and services that ship with the application
worker.py   what runs in the background; wake.py tells that there is work
row_level_security.py  the walls between accounts: row-level security; health.py and metrics.py say how the installation is
"""
