"""Words that revoke consent, give it again, or ask for help, by published lists.

A word counts only when it is the whole message, whatever its case and punctuation ("STOP", "Stop.",
"stop please"). A sentence that merely contains one ("stop by on Friday?") is a reply for a person to read.

    out    47 CFR 64.1200(a)(10): stop, quit, end, revoke, opt out, cancel, unsubscribe (words from memory of
           the rule); "stopall" and "stop all" are common practice among carriers
    in     "start" and "unstop": common practice among carriers
    help   "help" and "info": common practice among carriers
"""

import re
from typing import Literal

Keyword = Literal["out", "in", "help", ""]

OPT_OUT_WORDS = ("stop", "quit", "end", "revoke", "opt out", "optout", "cancel", "unsubscribe", "stopall", "stop all")
OPT_IN_WORDS = ("start", "unstop")
HELP_WORDS = ("help", "info")
_POLITE = ("please", "thanks", "thank you")


def plain(words: str) -> str:
    """Lower case, punctuation and doubled spaces gone: how answers and words are compared."""
    return " ".join(re.sub(r"[^\w\s]", " ", words.casefold()).split())


def keyword(text: str) -> Keyword:
    """What a message, taken as a whole, is; empty when it is something for a person to read."""
    said = plain(text)
    for polite in _POLITE:
        said = said.removesuffix(f" {polite}").removeprefix(f"{polite} ")
    if said in OPT_OUT_WORDS:
        return "out"
    if said in OPT_IN_WORDS:
        return "in"
    return "help" if said in HELP_WORDS else ""


def is_opt_out(text: str) -> bool:
    """Whether a reply, taken as a whole, revokes consent."""
    return keyword(text) == "out"
