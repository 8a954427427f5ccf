"""Bluffside: follow-up workflows for a marketing automation consultant's client accounts.

`core` holds the rules of the job and knows nothing of Django; `server` carries facts to it and its
decisions out. Start reading at docs/architecture.md.
"""
