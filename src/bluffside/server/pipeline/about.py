"""What is kept about a deal besides where it stands: who else is in it, notes, fields of the account's own."""

from collections.abc import Mapping, Sequence

from django.db import transaction

from bluffside.core.facts import FieldValue
from bluffside.server import sql
from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people.field_kinds import How, read_typed
from bluffside.server.people.models import Contact
from bluffside.server.pipeline.models import Deal, DealField, DealNote, DealPerson, Stage
from bluffside.server.pipeline.services import BadDeal
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.naming import free_name

MOST_PEOPLE = 50
MOST_FIELDS = 50


@transaction.atomic
def put_in(deal: Deal, contact: Contact, part: str, by: Person) -> DealPerson:
    """Somebody else is in it, or has another part. Raises BadDeal."""
    if contact.pk == deal.contact_id:
        raise BadDeal(f"It is {contact.name}’s deal already.")
    Deal.objects.select_for_update().get(pk=deal.pk)
    if deal.people.exclude(contact=contact).count() >= MOST_PEOPLE:
        raise BadDeal(f"A deal has {MOST_PEOPLE} people at most besides whose it is.")
    said = " ".join(sql.plain(part).split())[:60]
    made, new = DealPerson.objects.update_or_create(
        deal=deal, contact=contact, defaults={"account": deal.account, "part": said}
    )
    data = {"deal": deal.ref, "pipeline": deal.pipeline, "name": deal.name, "part": said}
    record(deal.account, [Happened("deal.joined", contact.pk, data, Cause(actor=by))] if new else [])
    return made


def take_out(deal: Deal, contact_id: int) -> None:
    DealPerson.objects.filter(deal=deal, contact_id=contact_id).delete()


def write_note(deal: Deal, text: str, by: Person) -> DealNote:
    """Raises BadDeal."""
    said = sql.plain(text).strip()[:4_000]
    if not said:
        raise BadDeal("The note is empty.")
    return DealNote.objects.create(account=deal.account, deal=deal, by=by, at=clock.now(), text=said)


# ---- fields of the account's own


def read(account: Account, typed: Mapping[str, str]) -> dict[str, FieldValue]:
    """What was typed into fields, as values. Raises BadDeal."""
    own, found = {one.name: one for one in DealField.objects.filter(account=account)}, {}
    for name, text in typed.items():
        if name not in own:
            raise BadDeal(f"There is no field “{name}” for deals.")
        try:
            found[name] = read_typed(
                sql.plain(text)[:2_000], own[name].kind, How(own[name].choices, region=account.region)
            )
        except ValueError as error:
            raise BadDeal(f"{name}: {error}.") from None
    return found


def make_field(account: Account, name: str, kind: str, choices: Sequence[str]) -> DealField:
    """Raises NotAName, BadDeal."""
    if DealField.objects.filter(account=account).count() >= MOST_FIELDS:
        raise BadDeal(f"An account has {MOST_FIELDS} fields for deals at most.")
    name = free_name(DealField, "field for deals", account, name)[:80]
    kept = [one for one in dict.fromkeys(" ".join(sql.plain(each).split())[:120] for each in choices) if one][:50]
    return DealField.objects.create(account=account, name=name, kind=kind, choices=kept)


@transaction.atomic
def drop_field(field: DealField) -> int:
    """With its values, which are answered for how many deals; stages need it no more."""
    deals = Deal.objects.select_for_update().filter(account=field.account, fields__has_key=field.name)
    rows = list(deals.only("id", "fields"))
    for one in rows:
        one.fields.pop(field.name)
    Deal.objects.bulk_update(rows, ["fields"], batch_size=1_000)
    for stage in Stage.objects.filter(account=field.account, needs__contains=[field.name]):
        stage.needs = [one for one in stage.needs if one != field.name]
        stage.save(update_fields=["needs"])
    field.delete()
    return len(rows)
