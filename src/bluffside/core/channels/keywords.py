"""Words that revoke consent, give it again, or ask for help, by published lists; and how words are compared.

    out    47 CFR 64.1200(a)(10): stop, quit, end, revoke, opt out, cancel, unsubscribe (words from memory of
           the rule); "stopall" and "stop all" are common practice among carriers
    in     "start" and "unstop": common practice among carriers
    help   "help" and "info": common practice among carriers

Whether a reply revokes consent is told by channels.answers, since the rule takes any reasonable way of saying so.
"""

import re

OPT_OUT_WORDS = ("stop", "quit", "end", "revoke", "opt out", "optout", "cancel", "unsubscribe", "stopall", "stop all")
OPT_IN_WORDS = ("start", "unstop")
HELP_WORDS = ("help", "info")


def plain(words: str) -> str:
    """Lower case, punctuation and doubled spaces gone: how answers and words are compared."""
    return " ".join(re.sub(r"[^\w\s]", " ", words.casefold()).split())
