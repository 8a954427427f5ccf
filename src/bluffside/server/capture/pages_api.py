"""How the pages look that contacts see, and the quiet that contacts asked the team for."""

from ninja import Path, Router, Schema
from ninja.errors import HttpError
from pydantic import Field

from bluffside.server.events.stream import Cause
from bluffside.server.messaging.services import ask_for_quiet
from bluffside.server.people.api import ContactRow, contact_of, contact_row
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.brand import brand_of, is_colour

router = Router(tags=["capture"], auth=InAccount())


class BrandIn(Schema):
    colour: str = ""
    line: str = Field(default="", max_length=120)


class BrandOut(BrandIn):
    """`on`: the colour of words on it, ink or paper, whichever reads better."""

    on: str


@router.get("brand", response=BrandOut)
def brand(request: AccountRequest, account: Path[str]) -> BrandOut:
    own = request.account
    return BrandOut(colour=own.brand_colour, line=own.brand_line, on=brand_of(own).on)


@router.put("brand", response=BrandOut)
def set_brand(request: AccountRequest, account: Path[str], given: BrandIn) -> BrandOut:
    require(request, "workflows")
    if given.colour and not is_colour(given.colour):
        raise HttpError(422, "A colour is written like #1d5b66. Nothing was changed.")
    request.account.brand_colour, request.account.brand_line = given.colour.lower(), given.line.strip()
    request.account.save(update_fields=["brand_colour", "brand_line"])
    return brand(request, account)


class Pause(Schema):
    """Quiet for so many weeks from now; none: no more."""

    weeks: int = Field(ge=0, le=52)


@router.put("contacts/{int:contact_id}/pause", response=ContactRow)
def quiet(request: AccountRequest, account: Path[str], contact_id: int, pause: Pause) -> ContactRow:
    """The contact asked for quiet: marketing waits until then."""
    require(request, "people")
    contact = contact_of(request, contact_id)
    ask_for_quiet(contact, pause.weeks, Cause(actor=request.person))
    return contact_row(contact_of(request, contact_id))
