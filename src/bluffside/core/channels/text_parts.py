"""How many parts a carrier splits a text into (3GPP TS 23.038, sections 6.1.2 and 6.2).

A text in the GSM 7 bit default alphabet holds 160 septets, or 153 a part when it is split; each
character of the extension table takes two septets and is never divided between parts. Any other
character makes the whole text UCS-2: 70 UTF-16 code units, or 67 a part; a surrogate pair stays together.
"""

from dataclasses import dataclass

BASIC = frozenset(
    "@£$¥èéùìòÇ\nØø\rÅåΔ_ΦΓΛΩΠΨΣΘΞÆæßÉ !\"#¤%&'()*+,-./0123456789:;<=>?"
    "¡ABCDEFGHIJKLMNOPQRSTUVWXYZÄÖÑÜ§¿abcdefghijklmnopqrstuvwxyzäöñüà"
)
EXTENSION = frozenset("^{}\\[~]|€\f")


@dataclass(frozen=True, slots=True)
class TextLength:
    """`used` and `room` in characters of the alphabet; `room` is what `parts` parts hold in all."""

    parts: int
    used: int
    room: int
    alphabet: str  # "GSM-7" or "UCS-2"
    odd_characters: tuple[str, ...]  # those that force UCS-2


def measure(text: str) -> TextLength:
    odd = tuple(dict.fromkeys(letter for letter in text if letter not in BASIC and letter not in EXTENSION))
    if odd:
        widths = [2 if ord(letter) > 0xFFFF else 1 for letter in text]
        whole, share, alphabet = 70, 67, "UCS-2"
    else:
        widths = [2 if letter in EXTENSION else 1 for letter in text]
        whole, share, alphabet = 160, 153, "GSM-7"
    used = sum(widths)
    if used <= whole:
        return TextLength(1, used, whole, alphabet, odd)
    parts, free = 1, share
    for width in widths:
        if width > free:
            parts, free = parts + 1, share
        free -= width
    return TextLength(parts, used, parts * share, alphabet, odd)
