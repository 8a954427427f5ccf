"""vCard: people as address books hold them, read and written (RFC 6350; version 3.0 and 2.1 are read, too).

Written is 4.0: names, emails, mobile, postal address, time zone, birthday, note, tags as categories. Read is what a contact has a
place for; photographs, keys and the like are passed over. Reading never fails on a card that merely is odd: what cannot
be told is left out, and a card without anybody in it is no row.
"""

import quopri
import re
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, field

LINE = 75  # octets, RFC 6350 section 3.2
_BEGIN = re.compile(r"^\s*BEGIN:VCARD\s*$", re.IGNORECASE)
_END = re.compile(r"^\s*END:VCARD\s*$", re.IGNORECASE)


@dataclass(slots=True)
class Card:
    """One person. `mobiles` and `emails` in the order of preference."""

    first_name: str = ""
    last_name: str = ""
    emails: list[str] = field(default_factory=list)
    mobiles: list[str] = field(default_factory=list)
    post: str = ""
    zone: str = ""
    tags: list[str] = field(default_factory=list)
    birthday: str = ""  # 2026-12-31, or words where it has no year
    note: str = ""


def is_vcard(text: str) -> bool:
    return text.lstrip("\ufeff \r\n\t")[:12].upper().startswith("BEGIN:VCARD")


# ---- reading


def read(text: str) -> list[Card]:
    cards: list[Card] = []
    lines: list[str] | None = None
    for line in _unfolded(text):
        if _BEGIN.match(line):
            lines = []
        elif _END.match(line) and lines is not None:
            cards.append(_card(lines))
            lines = None
        elif lines is not None:
            lines.append(line)
    return [card for card in cards if card != Card()]


def _unfolded(text: str) -> Iterator[str]:
    """Lines with their continuations; 2.1 also continues a quoted-printable line that ends in "="."""
    held: str | None = None
    for line in text.removeprefix("\ufeff").splitlines():
        if held is not None and line[:1] in (" ", "\t"):
            held += line[1:]
        elif held is not None and held.endswith("=") and "QUOTED-PRINTABLE" in held.partition(":")[0].upper():
            held = held[:-1] + line
        else:
            if held is not None:
                yield held
            held = line
    if held is not None:
        yield held


def _card(lines: list[str]) -> Card:
    card = Card()
    whole = ""
    found: list[tuple[int, str, str]] = []  # preference, "email" or "mobile", value
    for line in lines:
        name, marks, value = _parsed(line)
        match name:
            case "N":
                parts = [_plain(part) for part in _split(value, ";")] + [""] * 2
                card.last_name, card.first_name = parts[0], parts[1]
            case "FN":
                whole = whole or _plain(value)
            case "EMAIL":
                found.append((_preference(marks), "email", _plain(value).removeprefix("mailto:")))
            case "TEL" if not {"FAX", "PAGER"} & marks:
                found.append((_preference(marks), "mobile", re.sub(r"^tel:", "", _plain(value), flags=re.IGNORECASE)))
            case "ADR" if not card.post:
                card.post = ", ".join(part for part in (_plain(part) for part in _split(value, ";")) if part)
            case "TZ" if "/" in value:
                card.zone = _plain(value)
            case "BDAY":
                card.birthday = _day(_plain(value))
            case "NOTE":
                card.note = "; ".join(one for one in (card.note, _plain(value)) if one)
            case "CATEGORIES":
                card.tags += [tag for tag in (_plain(part) for part in _split(value, ",")) if tag]
    if whole and not card.first_name and not card.last_name:
        card.first_name, _, card.last_name = whole.partition(" ")
    for _, kind, value in sorted(found, key=lambda one: one[0]):
        held = card.emails if kind == "email" else card.mobiles
        if value and value not in held:
            held.append(value)
    return card


def _day(value: str) -> str:
    """A date of RFC 6350, 4.3.1, with or without its dashes; without a year (--1231) as 31/12."""
    if found := re.match(r"(\d{4})-?(\d{2})-?(\d{2})", value):
        return "-".join(found.groups())
    found = re.fullmatch(r"--(\d{2})-?(\d{2})", value)
    return f"{int(found[2])}/{int(found[1])}" if found else value


def _parsed(line: str) -> tuple[str, set[str], str]:
    """Name, what its parameters say in capitals, and the value, decoded where it is quoted-printable."""
    head, value = _at_colon(line)
    name, *parameters = head.split(";")
    marks: set[str] = set()
    charset = "utf-8"
    for parameter in parameters:
        key, _, said = parameter.rpartition("=")
        if key.upper() == "CHARSET":
            charset = said
        elif key.upper() == "PREF":
            marks.add(f"PREF={said}")
        else:
            marks |= {one.strip('"').upper() for one in said.split(",")}
    if "QUOTED-PRINTABLE" in marks:
        try:
            value = quopri.decodestring(value.encode("latin-1", "replace")).decode(charset, "replace")
        except LookupError:
            value = quopri.decodestring(value.encode("latin-1", "replace")).decode("utf-8", "replace")
    return name.rpartition(".")[2].upper().strip(), marks, value


def _at_colon(line: str) -> tuple[str, str]:
    """Cut at the first colon outside quotes."""
    quoted = False
    for at, letter in enumerate(line):
        quoted ^= letter == '"'
        if letter == ":" and not quoted:
            return line[:at], line[at + 1 :]
    return line, ""


def _preference(marks: set[str]) -> int:
    """The smaller the dearer: PREF=1 to 100 in 4.0, TYPE=PREF before it; a mobile before other telephones."""
    if "PREF" in marks:
        return 0
    given = next((mark[5:] for mark in marks if mark.startswith("PREF=")), "")
    return int(given) if given.isdecimal() else 101 if {"CELL", "INTERNET"} & marks else 102


def _split(value: str, at: str) -> list[str]:
    """Cut where a separator is not escaped."""
    parts, held = [], ""
    for piece in re.findall(r"\\.|.", value, re.DOTALL):
        if piece == at:
            parts.append(held)
            held = ""
        else:
            held += piece
    return [*parts, held]


def _plain(value: str) -> str:
    said = re.sub(r"\\(.)", lambda found: "\n" if found[1] in "nN" else found[1], value)
    return " ".join(said.replace("\0", "").split())


# ---- writing


def write(cards: Iterable[Card]) -> Iterator[str]:
    """Each card as text, lines ended and folded as RFC 6350 asks."""
    for card in cards:
        name = f"{card.first_name} {card.last_name}".strip() or next(iter([*card.emails, *card.mobiles]), "")
        lines = ["BEGIN:VCARD", "VERSION:4.0", f"FN:{_escaped(name)}"]
        lines.append(f"N:{_escaped(card.last_name)};{_escaped(card.first_name)};;;")
        lines += [f"EMAIL;PREF={n}:{_escaped(one)}" for n, one in enumerate(card.emails, start=1)]
        lines += [f"TEL;PREF={n};TYPE=cell:{_escaped(one)}" for n, one in enumerate(card.mobiles, start=1)]
        if card.post:
            lines.append(f"ADR:;;{_escaped(card.post)};;;;")
        if card.zone:
            lines.append(f"TZ:{_escaped(card.zone)}")
        if re.fullmatch(r"\d{4}-\d{2}-\d{2}", card.birthday):
            lines.append(f"BDAY:{card.birthday.replace('-', '')}")
        if card.note:
            lines.append(f"NOTE:{_escaped(card.note)}")
        if card.tags:
            lines.append(f"CATEGORIES:{','.join(map(_escaped, card.tags))}")
        lines.append("END:VCARD")
        yield "".join(f"{_folded(line)}\r\n" for line in lines)


def _escaped(text: str) -> str:
    return re.sub(r"([\\,;])", r"\\\1", " ".join(text.split()))


def _folded(line: str) -> str:
    """At most 75 octets a line, never inside a letter."""
    out, used = [], 0
    for letter in line:
        width = len(letter.encode())
        if used + width > LINE:
            out.append("\r\n ")
            used = 1
        out.append(letter)
        used += width
    return "".join(out)
