"""The quiet that contacts asked the team for."""

from ninja import Path, Router, Schema
from pydantic import Field

from bluffside.server.events.stream import Cause
from bluffside.server.messaging.services import ask_for_quiet
from bluffside.server.people.api import ContactRow, contact_of, contact_row
from bluffside.server.practice.access import AccountRequest, InAccount, require

router = Router(tags=["capture"], auth=InAccount())


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
