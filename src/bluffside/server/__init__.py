"""The server: Django, one app for each area, each with models, services (writes), queries (reads) and api.

practice/   the practice, its accounts, the people who sign in, the clock
events/     the one stream of domain events, recorded with each change and dispatched once
people/     contacts, tags, consent, imports
messaging/  the outbox and its delivery, replies, links
diary/      the team's tasks
workflows/  drafts, versions, enrolments, the engine's batches
outside/    simulated carrier, phones and mailboxes that ship with the application
worker.py   what runs in the background; wake.py asks for it
"""
