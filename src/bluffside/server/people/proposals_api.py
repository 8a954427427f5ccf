"""What came in from outside and waits for somebody to decide: at the contact, and for the whole account; and everything that
is kept about one person."""

import json
from typing import Literal

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Path, Router, Schema
from ninja.errors import HttpError

from bluffside.server.people import everything, proposals
from bluffside.server.people.models import Contact, Proposal
from bluffside.server.people.values import in_words
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.practice.words import moment

router = Router(tags=["people"], auth=InAccount())
SHOWN = 50


class ProposalRow(Schema):
    """`now`: what stands there, empty when nothing does; `alone`: only the contact themselves may say so."""

    id: int
    contact_id: int
    contact: str
    what: str
    value: str
    now: str
    source: str
    when: str
    alone: bool


@router.get("proposals", response=list[ProposalRow])
def all_proposals(request: AccountRequest, account: Path[str], contact: int | None = None) -> list[ProposalRow]:
    """Those that nobody has decided on yet, the oldest first."""
    rows = Proposal.objects.filter(account=request.account, settled_at=None)
    rows = rows if contact is None else rows.filter(contact_id=contact)
    return [
        ProposalRow(
            id=one.pk,
            contact_id=one.contact_id,
            contact=one.contact.name,
            what=proposals.label(one.what),
            value="agrees" if one.what.startswith("consent:") else in_words(one.value),
            now=proposals.in_place_of(one),
            source=one.source,
            when=moment(one.at, request.account.zone),
            alone=proposals.theirs_alone(one),
        )
        for one in rows.select_related("contact").order_by("id")[:SHOWN]
    ]


@router.post("proposals/{int:proposal_id}/{did}", response={204: None})
def decide(
    request: AccountRequest, account: Path[str], proposal_id: int, did: Literal["take", "leave"]
) -> tuple[int, None]:
    require(request, "people")
    one = get_object_or_404(Proposal, account=request.account, id=proposal_id)
    try:
        proposals.settle(one, did == "take", request.person)
    except proposals.CannotTake as error:
        raise HttpError(409, str(error)) from None
    return 204, None


# ---- everything about one person


@router.get("contacts/{int:contact_id}/everything.{format}", response={200: str})
def all_that_is_kept(
    request: AccountRequest, account: Path[str], contact_id: int, format: Literal["json", "txt"]
) -> HttpResponse:
    """What somebody may ask for: all that is kept about them, to be read by programs or by people."""
    require(request, "people")
    contact = get_object_or_404(Contact.objects.select_related("account"), account=request.account, id=contact_id)
    about = everything.everything_about(contact)
    text = json.dumps(about, indent=2, ensure_ascii=False) if format == "json" else everything.in_words(contact, about)
    kind = "application/json" if format == "json" else "text/plain; charset=utf-8"
    response = HttpResponse(text, content_type=kind)
    response["Content-Disposition"] = f"attachment; filename=person-{contact_id}.{format}"
    return response
