"""Reading short answers: what somebody means who answers a message with a few words.

    out        nothing more is to come on this channel: "stop", "please unsubscribe me", "no more texts"
    no         not this, and nobody opts out by it: "no thanks", "not for us"
    later      not now: "maybe next week"
    yes        "yes please", "count me in", "no problem, yes"
    question   something to be answered: "Can I stop by on Friday?"
    other      anything else

Each with how sure it is. A *sure* refusal acts at once, by 47 CFR 64.1200(a)(10): any reasonable way of saying so
counts. A *likely* one is for a person to look at, and holds marketing until they have.

A reply is cut into clauses, each in plain words: capitals, fullwidth letters, dots between letters, short forms, courtesy and
greetings are gone. The words below are common practice in English; `CASES` of the tests holds them to some hundred replies.
"""

import re
import unicodedata
from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import Literal, NamedTuple

from bluffside.core.care.house import Care
from bluffside.core.channels.keywords import HELP_WORDS, OPT_IN_WORDS, OPT_OUT_WORDS, plain
from bluffside.core.channels.own_words import own_words

Meaning = Literal["yes", "no", "later", "question", "out", "other"]
Sureness = Literal["sure", "likely"]
Answer = Literal["yes", "out", "other", "none"]
Keyword = Literal["out", "in", "help", ""]

USUAL_WORDS: dict[Answer, tuple[str, ...]] = {
    "yes": ("yes", "yeah", "yep", "y", "keen"),
    "out": ("no", "nope", "not interested"),
    "other": (),
    "none": (),
}


class Reading(NamedTuple):
    """`words`: those that decided, as they were understood; empty for "other"."""

    meaning: Meaning
    sure: Sureness
    words: str


# ---- words

_SHORT = (
    (r"\b(do|does|did|is|are|was|have|has|had|would|could|should|must)n'?t\b", r"\1 not"),
    (r"\b(ca|wo)n'?t\b", r"\1n not"),
    (r"\bcannot\b", "can not"),
    (r"\bi'?m\b", "i am"),
    (r"\b(i|you|we|they|it|that|he|she)'(ll|ve|d|re|s)\b", r"\1"),
    (r"\b(pls|plz|plse)\b", "please"),
    (r"\b(thx|thanx|ta|cheers)\b", "thanks"),
    (r"\bu\b", "you"),
)
_SIGNS = {"👍": " yes ", "✅": " yes ", "🙌": " yes ", "👎": " no ", "🛑": " stop ", "⛔": " stop "}
_COURTESY = (
    "please|kindly|thanks?( you)?( so much| very much| a lot| again)?|many thanks|sorry|hi|hello|hey|hiya|dear|good (morning|"
    "afternoon|evening)|(kind |best |warm )?regards|mate|guys|team|all|there|everyone|just|so|well|oh|and|ok|okay|oops|i mean(t)?( to say)?|make that"
)
_HARMLESS = r"\bno (problem|problems|worries|rush|bother|trouble|need to (apologise|apologize)|probs)( at all)?\b"
_REACH = "text|texts|texting|message|messages|messaging|msg|msgs|email|emails|emailing|mail|mails|mailing|sms|spam"
_DOING = "sending|texting|messaging|emailing|mailing|contacting|calling|ringing|writing|bothering|spamming|harassing"
_ASKING = r"(?:(?:yes|yeah|no|i said|i want you to|i would like you to|can you|could you|would you|will you|you must|to|you) )*"
_OBJECTS = (
    r"(?: (?:me|us|to me|to us|this number|here|again|ever|ever again|any ?more|at all|back|more|any|any more|these|those|the|your|"
    rf"this|stuff|things|at once|immediately|{_REACH}|to this number|on this number|from you|from your company))*"
)
_NAMES_OUT = "|".join(re.escape(word) for word in OPT_OUT_WORDS)
# A clause that says nothing but that nothing more is to come.
_BARE_OUT = re.compile(
    rf"(?:yes |yeah |no |i said |i want to |i would like to |to )*(?:(?:{_NAMES_OUT}|stopp+|stpo|sotp|unsub|unsubcribe|unsubscribed?|remove|"
    r"unsuscribe|unsubscibe)(?: |$))+"
)
_PLAIN_OUT = (
    "unsubscribe",
    "opt out",
    "optout",
    "stop all",
    "stopall",
)  # these mean nothing else, whatever stands beside
# … and one that says what is to stop.
_FULL_OUT = re.compile(
    rf"{_ASKING}(?:"
    rf"stop (?:sending (?:me|us)(?: .*)?|(?:{_DOING}){_OBJECTS}|(?:this|it|that|them)(?: now| immediately)?|(?:all |the |these |those |your |any |sending )*(?:{_REACH})(?: .*)?)"
    rf"|(?:do not|never) (?:ever )?(?:text|message|email|mail|contact|call|ring|write|msg|send|bother (?:me|us)){_OBJECTS}"
    rf"|no more (?:{_REACH}|of (?:this|these)){_OBJECTS}"
    r"|(?:remove|unsubscribe|delete) (?:me|us|my (?:number|email|name|details|data|address)|this number)(?: .*)?"
    r"|take (?:me|us|my (?:number|name|email)|this number) off(?: .*)?"
    r"|opt (?:me|us) out(?: .*)?"
    r"|(?:i )?(?:want|wish|would like|need) to (?:be removed|unsubscribe|opt out)(?: .*)?"
    r"|leave (?:me|us) alone|lose my number"
    r")(?: (?:or i|or we|otherwise|because) .*)?"
)
# Words that let one think so, wherever they stand.
_LIKELY_OUT = re.compile(
    rf"\b(?:stop (?:{_DOING})|unsubscribe|opt out|opt (?:me|us) out|take (?:me|us) off|remove (?:me|us)|no more (?:{_REACH})"
    rf"|(?:do not|never) (?:ever )?(?:text|message|email|mail|contact) (?:me|us)|leave (?:me|us) alone|wrong (?:number|person)"
    r"|not (?:want to |wish to )?be (?:contacted|texted|emailed)|^(?:no more|enough)$"
    r"|^(?!(?:bus|next|last|first|pit|non|full|tram|train|my|the|a|this|that|not)\b)\w+ stop$"
    r"|(?:how|where) did you (?:get|find) my|who gave you my|(?:this|you|it) (?:is|are|s) (?:just |all )?(?:spam|spammers?|harassment)|harass(?:ing|ment)"
    rf"|report(?:ed|ing)? (?:you|this)|block(?:ed|ing)? (?:you|this)|go away|get lost|sod off|piss off|f\w* off|too many (?:{_REACH}))\b"
)
_LATER = re.compile(
    r"\b(?:not (?:now|yet|today|tonight|right now|at the (?:moment|minute)|just now|this (?:week|time|month|year|weekend|season))|(?:maybe|perhaps) (?:later|next)|later"
    r"|another (?:time|day)|some other time|(?:next|in the new) (?:week|month|year|time|season|spring|summer|autumn|winter)|in (?:a|two|three|a few|few|some|\d+) "
    r"(?:days?|weeks?|months?|years?)|ask (?:me )?again|(?:will |shall )?(?:get|come) back to you|(?:will |shall )?let you know|(?:too |very |quite )?busy"
    r"|can not (?:right )?(?:now|today|at the moment|this (?:week|month))|when i (?:am|get) (?:back|home)|after (?:easter|christmas|the holidays?|new year))\b"
)
_YES = re.compile(
    r"(?:(?:i am |we are )?(?:very|really|so) )?(?:yes+|yeah+|yea|yep|yup|yas|y|aye|sure(?: thing)?|absolutely|definitely|certainly|of course|indeed|great|perfect|brilliant|lovely|deal|done"
    r"|sounds? (?:good|great|lovely|perfect|fine|ideal)|please do|go ahead|go for it|why not|count (?:me|us) in|sign (?:me|us) up|book (?:me|us)(?: in)?"
    r"|(?:i am|we are|i|we) (?:in|keen|interested|up for it|game)|keen|interested|(?:i|we) (?:would )?(?:love|like) (?:to|it|that|one)|(?:would )?love to|happy to"
    r"|(?:that |it |friday |monday )?works(?: for me| for us)?|(?:that is |that |it is )?fine(?: by me| for me| with me)?|let us do it|looking forward|(?:i|we) (?:can|will|do)"
    r"|do$|can not wait|how could i say no|confirm(?:ed)?|ok(?:ay)?|okey|(?:i|we) (?:will )?(?:be there|come))\b"
)
_NO = re.compile(
    r"(?:no longer interested|no+|nope|nah|no way|(?:i am )?afraid not|can not(?: make| do| come)?|never(?: ?mind)?|not (?:really|interested|for (?:me|us)|any ?more|keen|going|this one)|(?:i am|we are|i|we) not "
    r"(?:interested|keen|going|coming|able)|(?:i|we) (?:do|would|will|can) not|(?:i|we)? ?(?:would )?rather not|(?:i|we) (?:will )?pass|pass|decline|do not want)\b"
)
_ASKS = re.compile(
    r"(?:what|when|where|who|whom|whose|why|which|how|is|are|can|could|do|does|did|will|would|may|should|shall|have|has) (?!not\b)\w+"
)
_NOT = ("not", "never", "hardly")


# ---- reading


@lru_cache(4_096)
def read(text: str) -> Reading:
    """What a reply means. Pure and total: any text is read, the first 2,000 letters of it."""
    clauses = list(_clauses(own_words(text)))
    return _refusal([said for said, _ in clauses]) or _answer(clauses)


def _clauses(text: str) -> Iterator[tuple[str, bool]]:
    """Each clause in plain words, and whether it asks."""
    text = unicodedata.normalize("NFKC", text).casefold().replace("’", "'").replace("‘", "'")
    text = "".join(letter for letter in text if unicodedata.category(letter) != "Cf")
    for sign, word in _SIGNS.items():
        text = text.replace(sign, word)
    # Letters that stand apart are one word: "s.t.o.p", "s t o p".
    text = re.sub(r"\b(?:[a-z][.\s_*-]{1,2}){2,}[a-z]\b", lambda found: re.sub(r"[^a-z]", "", found[0]), text)
    for short, long in _SHORT:
        text = re.sub(short, long, text)
    for said, end in re.findall(r"([^.!?;,:\n()–—]+)([.!?;,:\n()–—]*)", text):
        for part in re.split(r"\b(?:but|however|instead|then)\b", said):
            words = _without_courtesy(re.sub(_HARMLESS, " ", plain(part)).strip())
            if words:
                yield " ".join(words.split()), "?" in end or bool(_ASKS.match(words))


def _without_courtesy(said: str) -> str:
    before = None
    while said and said != before and said not in ("ok", "okay"):
        before = said
        said = re.sub(rf"^(?:{_COURTESY})\b ?| ?\b(?:{_COURTESY})$", "", said).strip()
    return said


def _refusal(clauses: list[str]) -> Reading | None:
    full = [said for said in clauses if _FULL_OUT.fullmatch(said)]
    bare = [said for said in clauses if _BARE_OUT.fullmatch(said)]
    takes_back = any(
        re.search(r"\b(?:not|never) (?:\w+ ){0,2}(?:stop|unsubscribe|remove|cancel)\b", said) for said in clauses
    )
    beside = [said for said in clauses if said not in full and said not in bare and not _says_little(said)]
    if full or bare:
        plainly = bool(full) or any(said in _PLAIN_OUT for said in bare)
        sure = not takes_back and (plainly or not beside)
        return Reading("out", "sure" if sure else "likely", (full or bare)[0])
    for said in clauses:
        found = _LIKELY_OUT.search(said)
        if found and not takes_back and not _is_denied(said, found.start()):
            return Reading("out", "likely", found[0])
    return None


def _says_little(said: str) -> bool:
    return bool(_YES.fullmatch(said) or _NO.fullmatch(said))


def _is_denied(said: str, at: int) -> bool:
    return any(word in _NOT for word in said[:at].split()[-2:])


def _answer(clauses: list[tuple[str, bool]]) -> Reading:
    found: list[Reading] = []
    for said, asks in clauses:
        if later := _LATER.search(said):
            return Reading("later", "sure", later[0])
        yes, no = _YES.match(said), _NO.match(said)
        if asks and not (yes and len(said.split()) > 1):
            found.append(Reading("question", "sure", said))
        elif yes and not re.match(r"(?:\w+ ){0,2}not\b", said[yes.end() :].strip()):
            found.append(Reading("yes", "likely" if yes[0] in ("ok", "okay", "great") else "sure", yes[0]))
        elif no:
            # "no" before a thing ("no wind today") is no answer for sure.
            clear = (
                no[0] != "no"
                or len(said.split()) == 1
                or re.match(r"no (?:i|we|not|it|that|my|the|no|he|she|they)\b", said)
            )
            found.append(Reading("no", "sure" if clear else "likely", no[0]))
    few = {said for said, _ in clauses if len(said.split()) <= 3}
    answers = [one for one in found if one.meaning in ("yes", "no")]
    if not answers:
        return found[0] if found else Reading("other", "likely", "")
    decided = answers[0]
    for one in answers[1:]:  # who says both in a few words has thought better of it
        decided = one if one.meaning == decided.meaning or one.words in few else decided
    same = all(one.meaning == decided.meaning for one in answers)
    return decided if same else decided._replace(sure="likely")


# ---- for workflows and channels


def meant(text: str, care: Care) -> str:
    """What somebody texted, with a word of the account's own as the usual one that it stands for."""
    if not (care.words_out or care.words_help):
        return text
    said = _without_courtesy(plain(own_words(text)))
    if said and said in map(plain, care.words_out):
        return OPT_OUT_WORDS[0]
    return HELP_WORDS[0] if said and said in map(plain, care.words_help) else text


def asks_too(text: str) -> bool:
    """Whether something is asked, whatever else a reply says: "yes, but can my son come?"."""
    return any(asks for _, asks in _clauses(own_words(text)))


def keyword(text: str) -> Keyword:
    """What a message is to the channel it came by: it revokes consent for sure, gives it again, asks for help; else empty."""
    said = _without_courtesy(plain(own_words(text)))
    if said in OPT_IN_WORDS:
        return "in"
    if said in HELP_WORDS:
        return "help"
    return "out" if is_opt_out(text) else ""


def is_opt_out(text: str) -> bool:
    """Whether a reply revokes consent for sure."""
    meaning, sure, _ = read(text)
    return meaning == "out" and sure == "sure"


def is_likely_opt_out(text: str) -> bool:
    """Whether a reply may revoke consent, and somebody has to look."""
    meaning, sure, _ = read(text)
    return meaning == "out" and sure == "likely"


def tell(text: str, words: Mapping[Answer, tuple[str, ...]]) -> tuple[Answer, str]:
    """Which lane's answer a reply is, and the word that decided (empty for "other").

    `words`: by answer, those that the workflow goes by. Words of its own ("kayak") are looked for as whole words, the one
    that stands earliest wins, longer ones first, and one that is denied ("not kayak") does not count. Usual words stand
    for all that means the same: a lane with "yes" takes every yes."""
    meaning, _, because = read(text)
    if meaning == "out":
        return "out", because
    said, best = f" {plain(own_words(text))} ", None
    for answer, candidates in words.items():
        for word in map(plain, candidates):
            at = said.find(f" {word} ") if word and not _is_usual(word) else -1
            if at >= 0 and not _is_denied(said, at) and (best is None or (at, -len(word)) < best[:2]):
                best = (at, -len(word), answer, word)
    if best:
        return best[2], best[3]
    lanes: dict[Meaning, Answer] = {"yes": "yes", "no": "out"}
    lane = lanes.get(meaning, "other")
    usual = any(_is_usual(plain(word)) for word in words.get(lane, ()))
    return (lane, because) if lane != "other" and usual else ("other", "")


@lru_cache(1_024)
def _is_usual(word: str) -> bool:
    return read(word).meaning in ("yes", "no", "out")
