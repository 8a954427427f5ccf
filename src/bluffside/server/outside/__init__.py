"""Outside: simulated stand-ins that ship with the application. A carrier with phones and mailboxes.

Nothing here is called by the rest of the server but through messaging.carrier.Carrier; what happens here comes
back as a real carrier's reports would, by messaging.services.
"""
