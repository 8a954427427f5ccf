"""The booking assistant in a correspondence: what it is about to say, and going on in its place."""

from ninja import Path, Router, Schema
from ninja.errors import HttpError

from bluffside.server.messaging.correspondence import MovedOn
from bluffside.server.people.api import contact_of
from bluffside.server.people.models import Contact
from bluffside.server.practice import clock
from bluffside.server.practice.access import AccountRequest, InAccount, require
from bluffside.server.workflows import conversations

router = Router(tags=["replies"], auth=InAccount())


class AtTurn(Schema):
    turn: int


class ConversationOut(Schema):
    """The booking assistant with them. `offers` and `offers_left`: how often it has offered times, and still may; `understood`: what they
    wrote last, in words; `says`: what it is about to say, in so many seconds (`goes_in`), empty for nothing."""

    type: str
    workflow: int
    workflow_name: str
    offers: int
    offers_left: int
    understood: str
    says: str
    goes_in: int
    message: int | None


def talks_with(contact: Contact) -> ConversationOut | None:
    one = conversations.with_contact(contact)
    return one and ConversationOut(
        **{name: getattr(one, name) for name in ("type", "workflow", "workflow_name", "offers_left", "says", "message")},
        offers=one.talk.offers, understood=one.talk.understood,
        goes_in=max(int((one.goes - clock.now()).total_seconds()), 0) if one.goes else 0,
    )  # fmt: skip


class TakenOverOut(Schema):
    """`says`: what the assistant would have said, which has not gone."""

    says: str


@router.post("replies/{int:contact_id}/take-over", response=TakenOverOut)
def take_over(request: AccountRequest, account: Path[str], contact_id: int, given: AtTurn) -> TakenOverOut:
    """Somebody goes on in place of the booking assistant."""
    require(request, "people")
    try:
        return TakenOverOut(says=conversations.take_over(contact_of(request, contact_id), request.person, given.turn))
    except MovedOn as error:
        raise HttpError(409, f"{error} The assistant goes on.") from None


@router.post("replies/{int:contact_id}/send-now", response={204: None})
def send_now(request: AccountRequest, account: Path[str], contact_id: int, given: AtTurn) -> tuple[int, None]:
    """What the booking assistant is about to say goes at once."""
    require(request, "people")
    try:
        conversations.send_now(contact_of(request, contact_id), given.turn)
    except MovedOn as error:
        raise HttpError(409, str(error)) from None
    return 204, None
