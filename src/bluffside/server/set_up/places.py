"""Countries, languages, currencies and time zones to choose from: ISO 3166, BCP 47, ISO 4217 and IANA, named by CLDR (Babel)."""

from functools import cache
from typing import NamedTuple

from babel import Locale
from babel.core import get_global
from babel.languages import get_official_languages
from babel.localedata import locale_identifiers
from babel.numbers import get_territory_currencies, list_currencies

from bluffside.core.words import place

_ENGLISH = Locale("en", "GB")


class Choice(NamedTuple):
    code: str
    name: str


class Zone(NamedTuple):
    """An IANA zone, and the country that it is of."""

    zone: str
    town: str
    region: str
    country: str


@cache
def countries() -> tuple[Choice, ...]:
    """Those of ISO 3166-1; CLDR also names continents (numbers) and some that are no countries."""
    zones = set(get_global("zone_territories").values())
    named = ((code, name) for code, name in _ENGLISH.territories.items() if len(code) == 2 and code in zones)
    return tuple(sorted((Choice(*one) for one in named), key=lambda one: one.name))


def country(code: str) -> str:
    return str(_ENGLISH.territories.get(code, code))


@cache
def languages() -> tuple[Choice, ...]:
    """Languages, and their forms in a country: "English (United Kingdom)"."""
    found = {}
    for identifier in locale_identifiers():
        locale = Locale.parse(identifier)
        if not locale.variant and not locale.script and (name := locale.get_display_name(_ENGLISH)):
            found[identifier.replace("_", "-")] = str(name)
    return tuple(sorted((Choice(code, name) for code, name in found.items()), key=lambda one: one.name))


@cache
def currencies() -> tuple[Choice, ...]:
    """Those that are some country's today."""
    today = {code for one in countries() for code in get_territory_currencies(one.code)} & list_currencies()
    return tuple(
        sorted((Choice(code, str(_ENGLISH.currencies.get(code, code))) for code in today), key=lambda one: one.name)
    )


@cache
def zones() -> tuple[Zone, ...]:
    found = get_global("zone_territories").items()
    usual = ((zone, region) for zone, region in found if len(region) == 2 and region != "ZZ" and "/" in zone)
    return tuple(Zone(zone, place(zone), region, country(region)) for zone, region in sorted(usual))


def find_zones(words: str, most: int = 12) -> list[Zone]:
    """Those whose town, country or IANA name has every word of `words`, towns that begin with it first."""
    sought = words.casefold().replace("_", " ").split()
    if not sought:
        return []
    fits = [one for one in zones() if all(word in f"{one.town} {one.country} {one.zone}".casefold() for word in sought)]
    return sorted(fits, key=lambda one: (not one.town.casefold().startswith(sought[0]), one.town))[:most]


def usual_language(region: str) -> str:
    """The language most people of a country write in, in its form there."""
    spoken = get_official_languages(region, de_facto=True)
    known = {one.code for one in languages()}
    own = [f"{language}-{region}" for language in spoken]
    return next((one for one in (*own, *spoken) if one in known), "en-GB")


def usual_currency(region: str) -> str:
    return next(iter(get_territory_currencies(region)), "EUR")
