"""Taking a file back: whom it added goes, unless something else has happened to them; what it changed is as it was before,
where it still stands as the import left it. What does not is told at the contact, and left alone."""

from typing import Any

from django.db.models import Q

from bluffside.server.events.stream import Cause, Happened, record
from bluffside.server.people.erasing import untouched_since, wipe
from bluffside.server.people.import_beside import BESIDE
from bluffside.server.people.models import Contact, ContactImport, ImportTouched
from bluffside.server.practice import clock

CHUNK = 500
UNIQUE = ("email", "mobile")


def take_back_chunk(imported: ContactImport) -> int:
    """The next of those whom an import touched, in the transaction at hand; answers how many."""
    account = imported.account
    some = list(ImportTouched.objects.filter(of=imported).order_by("id").select_for_update()[:CHUNK])
    for beside in BESIDE.values():
        left = beside.take_back(imported, [one.contact_id for one in some] if some else None)
        imported.kept += 0 if some else left
    if not some:
        imported.state, imported.ended_at = ContactImport.State.TAKEN_BACK, clock.now()
        imported.save(update_fields=["state", "ended_at", "kept"])
        return 1
    added = [one.contact_id for one in some if one.before is None]
    gone = untouched_since(account, added, imported.ended_at or clock.now())
    wipe(account, gone)
    imported.kept += len(added) - len(gone)
    changed = {one.contact_id: one.before for one in some if one.before is not None}
    contacts = Contact.objects.select_for_update().in_bulk(changed)
    happened, cause = [], Cause(actor=imported.by)
    for id, contact in contacts.items():
        stays = _put_back(contact, changed[id])
        how = f"{imported.file_name} was taken back"
        if stays:
            imported.kept += 1
            how += f", but for what has changed since: {', '.join(stays)}"
        happened.append(Happened("contact.changed", id, {"how": how}, cause))
    record(account, happened)
    ImportTouched.objects.filter(id__in=[one.id for one in some]).delete()
    imported.save(update_fields=["kept"])
    return len(some)


def _put_back(contact: Contact, before: dict[str, Any]) -> list[str]:
    """Puts back what still stands as the import left it; answers what does not, in words. What was noted by an earlier
    version says only how it had been, and is put back."""
    left = before.get("became", {})
    stays: list[str] = []
    for name, was in before.items():
        if name == "became":
            continue
        now, became = getattr(contact, name), left.get(name)
        if name == "fields" and became is not None:
            stays += _put_back_fields(contact, was, became)
        elif (became is not None and now != became) or not _is_free(contact, name, was):
            stays.append(name.replace("_", " "))
        else:
            setattr(contact, name, was)
    contact.save(update_fields=[name for name in before if name != "became"])
    return sorted(stays)


def _put_back_fields(contact: Contact, was: dict[str, Any], became: dict[str, Any]) -> list[str]:
    stays = []
    for name in became.keys() | was.keys():
        if was.get(name) == became.get(name):
            continue
        if contact.fields.get(name) != became.get(name):
            stays.append(name)
        elif name in was:
            contact.fields[name] = was[name]
        else:
            contact.fields.pop(name, None)
    return sorted(stays)


def _is_free(contact: Contact, name: str, value: Any) -> bool:
    """Whether an address that is put back is nobody else's meanwhile."""
    if name not in UNIQUE or not value:
        return True
    others = Contact.objects.filter(Q(**{name: value}), account_id=contact.account_id).exclude(id=contact.id)
    return not others.exists()
