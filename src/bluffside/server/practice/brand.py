"""Pages that contacts see, in the account's brand: its colour, and ink or paper on it, whichever reads better."""

import re
from dataclasses import dataclass
from functools import cache
from typing import Any

from django.conf import settings
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404, render

from bluffside.core.contrast import contrast, luminance
from bluffside.server.practice.models import Account

USUAL = "#1d5b66"
INK, PAPER = "#1f2a30", "#ffffff"
SHEET = "#faf8f3"  # what contacts' pages are written on (web/src/contact/pages.css)


READABLE = 4.5  # WCAG 2.2, success criterion 1.4.3, for words of usual size


@dataclass(frozen=True, slots=True)
class Brand:
    """`on`: the colour of words on it; `link`: that of links and buttons; `logo` and `picture`: their addresses, or empty."""

    colour: str
    on: str
    link: str
    logo: str
    picture: str


def contact_page(
    request: HttpRequest, template: str, account: Account, status: int = 200, **about: Any
) -> HttpResponse:
    """A page for a contact, by a template that extends practice/contact_page.html. No cache keeps it."""
    about |= {
        "account": account,
        "brand": brand_of(account),
        "stylesheet": _built("contact-pages-*.css"),
        "looks": request.method == "GET",
        "zone_script": _built("contact-zone-*.js"),
    }
    response = render(request, template, about, status=status)
    response["Cache-Control"] = "no-store"
    return response


def nobody_there(request: HttpRequest, account_id: int) -> HttpResponse:
    """For a link of ours about somebody, or something, that is not kept any more: whose it was, and what to do."""
    return contact_page(request, "practice/nobody.html", get_object_or_404(Account, id=account_id), 410)


@cache
def _built(pattern: str) -> str:
    """The built name of what stands in web/src/contact; empty where the web application was not built."""
    return next((one.name for one in (settings.WEB / "assets").glob(pattern)), "")


def is_colour(text: str) -> bool:
    return bool(re.fullmatch(r"#[0-9a-fA-F]{6}", text))


def brand_of(account: Account) -> Brand:
    colour = account.brand_colour if is_colour(account.brand_colour) else USUAL
    on = max((INK, PAPER), key=lambda one: contrast(colour, one))
    link = account.link_colour if is_colour(account.link_colour) else colour
    pictures = {one.kind: f"/b/{one.token}" for one in account.pictures.exclude(kind="letter").only("kind", "token")}
    return Brand(colour, on, usable(link, SHEET), pictures.get("logo", ""), pictures.get("picture", ""))


def usable(colour: str, ground: str) -> str:
    """The colour, or the nearest darker one of its kind (lighter, on a dark ground) that words can have on a ground."""
    towards = "#000000" if luminance(ground) > 0.18 else "#ffffff"
    for step in range(101):
        found = _mixed(colour, towards, step / 100)
        if contrast(found, ground) >= READABLE:
            return found
    return towards


def _mixed(one: str, other: str, share: float) -> str:
    pairs = ((int(one[at : at + 2], 16), int(other[at : at + 2], 16)) for at in (1, 3, 5))
    return "#" + "".join(f"{round(first + (second - first) * share):02x}" for first, second in pairs)
