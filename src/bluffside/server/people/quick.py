"""Quick entry: a line a person, as it stands in a notebook.

"Ana Reyes 07700 900123 ana@example.com asked about evening class" is a name, a number, an address and a note. What is
understood is shown while it is typed (`understand`), can be corrected, and only then is kept (`add`).
"""

import re
from dataclasses import dataclass, field

import phonenumbers

from bluffside.core.phone_numbers import as_written, landline
from bluffside.core.terms import TwoWay
from bluffside.server.events.stream import Cause
from bluffside.server.people import addresses
from bluffside.server.people.import_rows import parted
from bluffside.server.people.services import (
    BadContact,
    add_contact,
    add_note,
    add_tags,
    change_contact,
    known_by,
    normalised,
    set_consent,
)
from bluffside.server.practice.models import Account

_EMAIL = re.compile(r"[^\s<>,;:()\"]+@[^\s<>,;:()\"]+")
_TAG = re.compile(r"(?<!\S)#([\w-]{1,60})")
_PARTICLES = {
    "van",
    "von",
    "de",
    "der",
    "den",
    "del",
    "della",
    "da",
    "di",
    "du",
    "la",
    "le",
    "bin",
    "al",
    "el",
    "ter",
    "ten",
    "y",
}
_BREAK = re.compile(r"\s*[,;|\t]\s*|\s+[-–—]\s+")


@dataclass(slots=True)
class Line:
    """What a line says. `fault`: why it could not be kept as it is (an address that is none stands as it was typed, to be
    corrected); `known`: who that is already; `told`: what else is worth knowing."""

    first_name: str = ""
    last_name: str = ""
    mobile: str = ""
    email: str = ""
    note: str = ""
    tags: list[str] = field(default_factory=list)
    agreed: list[TwoWay] = field(default_factory=list)  # the channels they agreed to hear by, with what shows it
    evidence: str = ""
    fault: str = ""
    known: str = ""
    told: str = ""


def understand(account: Account, text: str) -> Line:
    """Reads one line. It always answers; what it cannot tell is the note."""
    line, rest = Line(), " ".join(text.replace("\t", " | ").split())
    email = mobile = ""
    if found := _EMAIL.search(rest):
        line.email = found[0].rstrip(".")
        try:
            line.email = email = addresses.email(line.email)
        except ValueError as error:
            line.fault = str(error)
        rest = _cut(rest, found.start(), found.end())
    for match in phonenumbers.PhoneNumberMatcher(rest, account.region, leniency=phonenumbers.Leniency.POSSIBLE):
        line.mobile = _without_extension(match)
        rest = _cut(rest, match.start, match.start + len(line.mobile))
        try:
            mobile = addresses.mobile(line.mobile, account.region)
            line.mobile = as_written(mobile, account.region)
        except ValueError as error:
            line.fault = line.fault or str(error)
        break
    line.tags = _TAG.findall(rest)
    rest = _TAG.sub(" ", rest)
    _name_and_note(line, rest)
    if not line.email and not line.mobile and not line.fault and (line.first_name or line.note):
        line.fault = "no email and no number yet"
    line.told = landline(mobile, account.region)
    holder = known_by(account, email, mobile)
    if holder:
        line.known = holder.name
    return line


def _without_extension(match: phonenumbers.PhoneNumberMatch) -> str:
    """What was found, up to an extension ("x 12"), which no mobile number has: that stays with the rest of the line."""
    said: str = match.raw_string
    if not match.number.extension:
        return said
    ends = next((at for at, letter in enumerate(said) if letter.isalpha() or letter in "#;~"), len(said))
    return said[:ends]


def _cut(text: str, start: int, end: int) -> str:
    return f"{text[:start].rstrip(' <(')} | {text[end:].lstrip(' >)')}"


def _name_and_note(line: Line, rest: str) -> None:
    """The name is the words with a capital that the first part begins with, three at most; a lower-case first word is
    taken for a name when nothing follows but another. All else is the note."""
    parts = [part for part in (_BREAK.split(rest)) if part.strip(" .|<>()")]
    if not parts:
        return
    words = parts[0].split()
    name: list[str] = []
    for word in words:
        names = word[:1].isupper() or (name and word.lower() in _PARTICLES)
        if not names or len(name) == 4 or (name and name[-1].endswith((".", ":")) and len(name[-1]) > 2):
            break
        name.append(word)
    while len(name) > 1 and name[-1].lower() in _PARTICLES:
        name.pop()
    if not name and len(words) <= 2:
        name = [word.title() for word in words]
        words = name
    whole = " ".join(word.strip(",:") for word in name)
    title, line.first_name, line.last_name = parted(whole)
    said = [
        title,
        " ".join(words[len(name) :]),
        *(part.strip(" |-–—") for part in parts[1:]),
    ]
    line.note = "; ".join(part for part in said if part)[:2_000]


def add(account: Account, line: Line, cause: Cause) -> tuple[int, bool]:
    """Keeps a line as it was corrected: a new person, or the note and tags to somebody who is known by the address, whose
    gaps are filled. Answers the contact's id and whether they are new. Raises BadContact."""
    fields = {"first_name": line.first_name, "last_name": line.last_name, "email": line.email, "mobile": line.mobile}
    if not line.email.strip() and not line.mobile.strip():
        raise BadContact({"email": "give an email or a mobile number"})
    if line.agreed and not line.evidence.strip():
        raise BadContact({"evidence": "say how they agreed to hear from you"})
    kept = normalised(account, {"email": line.email, "mobile": line.mobile})
    known = known_by(account, kept["email"], kept["mobile"])
    if known:
        gaps = {name: value for name, value in fields.items() if value and not getattr(known, name)}
        change_contact(known, gaps, cause)
    contact = known or add_contact(account, fields, cause, how="quick entry")
    if line.note.strip():
        add_note(contact, line.note, cause)
    for channel in line.agreed:
        set_consent(account, [contact.id], channel, True, line.evidence.strip()[:400], cause, how="quick entry")
    add_tags(account, [(contact.id, tag, cause) for tag in line.tags])
    return contact.id, known is None
