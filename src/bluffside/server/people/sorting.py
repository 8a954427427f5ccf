"""What people are sorted by: the account's fields, tags and lists themselves, rather than who has them."""

from collections.abc import Iterator, Sequence
from datetime import datetime

from django.db import transaction
from django.db.models import Count, F, Func, JSONField, Q, TextField, Value
from django.db.models.functions import Cast

from bluffside.core.terms import ADDRESS_OF, CHANNELS, PURPOSES, Channel, Purpose
from bluffside.server.events.stream import Cause
from bluffside.server.people import usages
from bluffside.server.people.field_kinds import FIELD_KINDS, How, read_typed
from bluffside.server.people.import_columns import FIELD
from bluffside.server.people.models import (
    Consent,
    Contact,
    ContactImport,
    ContactList,
    ContactTag,
    Field,
    ImportTouched,
    Tag,
)
from bluffside.server.people.services import add_tags
from bluffside.server.people.values import in_words, plain_value
from bluffside.server.practice.models import Account, Person
from bluffside.server.practice.naming import is_taken


class CannotSort(ValueError):
    """Why a field, tag or list cannot be as it is asked, in words."""


def _name(text: str, most: int) -> str:
    name = " ".join(text.replace("\0", "").split())
    if not name or len(name) > most:
        raise CannotSort(f"A name has between one letter and {most}.")
    return name


# ---- fields


@transaction.atomic
def keep_field(
    account: Account, name: str, kind: str, choices: Sequence[str], by: Person, own: Field | None = None
) -> Field:
    """Makes a field, or changes one. When the kind changes, values that can be read as the new kind are, and the change is
    refused when some cannot. Raises CannotSort, and NotAName when a workflow runs with the old name."""
    name = _name(name, 80)
    if FIELD_KINDS[kind].wants_choices() and not choices:
        raise CannotSort("Name at least one choice, each on a line of its own.")
    kept = list(dict.fromkeys(one for one in (" ".join(choice.split())[:120] for choice in choices) if one))
    if is_taken(Field, account, name, own.id if own else 0):
        raise CannotSort(f"There is a field “{name}” already.")
    if own is None:
        return Field.objects.create(account=account, name=name, kind=kind, choices=kept)
    if own.name != name:
        usages.give_name(account, "field", own.name, name, by)
        _values_under(account, own.name, name)
        own.name = name
    if (own.kind, own.choices) != (kind, kept):
        _read_anew(account, own, kind, kept)
    own.kind, own.choices = kind, kept
    own.save(update_fields=["name", "kind", "choices"])
    return own


def _values_under(account: Account, old: str, new: str) -> None:
    """What people have in a field, and what taking an import back would give them."""
    was, value = Cast(Value(old), TextField()), JSONField()
    without = Func(F("fields"), was, template="(%(expressions)s)", arg_joiner=" - ", output_field=value)
    held = Func(F("fields"), was, template="(%(expressions)s)", arg_joiner=" -> ", output_field=value)
    renamed = Func(Cast(Value(new), TextField()), held, function="jsonb_build_object", output_field=value)
    both = Func(without, renamed, template="(%(expressions)s)", arg_joiner=" || ", output_field=value)
    Contact.objects.filter(account=account, fields__has_key=old).update(fields=both)
    holds = Q(before__fields__has_key=old) | Q(before__became__fields__has_key=old)
    touched = list(ImportTouched.objects.filter(holds, account=account))
    for row in touched:
        before = row.before or {}
        for fields in (before.get("fields"), before.get("became", {}).get("fields")):
            if fields and old in fields:
                fields[new] = fields.pop(old)
    ImportTouched.objects.bulk_update(touched, ["before"], batch_size=1_000)


def _read_anew(account: Account, own: Field, kind: str, choices: Sequence[str]) -> None:
    """The values that contacts have, read as another kind."""
    holders = Contact.objects.filter(account=account, fields__has_key=own.name).select_for_update()
    people = list(holders.only("id", "fields"))
    texts = [str(one.fields[own.name]) for one in people]
    how = How(choices, FIELD_KINDS[kind].guess_rule(texts), account.region)
    bad = []
    for one in people:
        said = in_words(one.fields[own.name])
        try:
            one.fields[own.name] = plain_value(read_typed(said, kind, how))
        except ValueError as error:
            bad.append(str(error))
    if bad:
        raise CannotSort(f"{len(bad)} people have a value that does not fit: {bad[0]}. Nothing was changed.")
    Contact.objects.bulk_update(people, ["fields"], batch_size=1_000)


class Each(Func):
    """Each key of an object, or element of an array, in a row of its own."""

    set_returning = True
    output_field = TextField()


def filled(account: Account) -> dict[str, int]:
    """How many people have a value, by the field's name, in one pass over the account."""
    keys = Contact.objects.filter(account=account).values(key=Each("fields", function="jsonb_object_keys"))
    return dict(keys.annotate(n=Count("id")).values_list("key", "n"))


@transaction.atomic
def drop_field(field: Field) -> int:
    """Takes a field and its values away; answers how many people had one."""
    without = Func(F("fields"), Cast(Value(field.name), TextField()), template="(%(expressions)s)", arg_joiner=" - ")
    count = Contact.objects.filter(account=field.account, fields__has_key=field.name).update(fields=without)
    field.delete()
    return count


class Remembered:
    """What imports remember for the next file of their sort: columns, tags, lists. It is no use of a name, but takes a new
    one."""

    def uses(self, account: Account) -> Iterator[usages.Use]:
        yield from ()

    def rename(self, account: Account, kind: str, old: str, new: str, by: Person) -> None:
        for imported in ContactImport.objects.filter(account=account).select_for_update():
            settings = imported.settings
            if kind == "field":
                mapping = settings.get("mapping", {})
                changed = {number: FIELD + new if one == FIELD + old else one for number, one in mapping.items()}
                settings = settings | {"mapping": changed}
            elif old in settings.get(f"{kind}s", ()):
                settings = settings | {f"{kind}s": usages.swapped(settings[f"{kind}s"], old, new)}
            if settings != imported.settings:
                imported.settings = settings
                imported.save(update_fields=["settings"])


# ---- tags


@transaction.atomic
def keep_tag(account: Account, name: str, about: str, by: Person, own: Tag | None = None) -> Tag:
    """Raises CannotSort, and NotAName when a workflow runs with the old name."""
    name = _name(name, 80)
    if is_taken(Tag, account, name, own.id if own else 0):
        raise CannotSort(f"There is a tag “{name}” already.")
    tag = own or Tag(account=account)
    if own and own.name != name:
        usages.give_name(account, "tag", own.name, name, by)
    tag.name, tag.about = name, about.strip()[:300]
    tag.save()
    return tag


@transaction.atomic
def merge_tags(account: Account, away: Tag, into: Tag, by: Person) -> int:
    """Whoever has the one gets the other, and the one is gone; answers how many got it. Workflows that start on it
    start for them. Segments, forms, rules, sources, the drafts of workflows and what happened name the other from then on;
    what is published does once it is published again."""
    if away.id == into.id:
        raise CannotSort("These are the same tag.")
    holders = ContactTag.objects.filter(account=account, tag=away).values_list("contact_id", flat=True)
    count = add_tags(account, [(id, into.name, Cause(actor=by)) for id in holders])
    usages.rename(account, "tag", away.name, into.name, by)
    away.delete()
    return count


# ---- lists


def on_lists(account: Account) -> dict[str, int]:
    """How many people are on a list, by its name."""
    names = Contact.objects.filter(account=account).values(on=Each("lists", function="unnest"))
    return dict(names.annotate(n=Count("id")).values_list("on", "n"))


def lists_of(account: Account) -> list[tuple[ContactList, int]]:
    """Each list with how many are on it; one that only exists by people being on it counts, too."""
    counts = on_lists(account)
    known = {one.name: one for one in ContactList.objects.filter(account=account)}
    for name in counts:
        known.setdefault(name, ContactList(account=account, name=name))
    return [(known[name], counts.get(name, 0)) for name in sorted(known, key=str.casefold)]


@transaction.atomic
def keep_list(
    account: Account, name: str, about: str, offered: bool, offered_as: str, by: Person, was: str = ""
) -> ContactList:
    """Makes a list known, or changes what is known of it; `was`: the name it had. Raises CannotSort, and
    NotAName when a workflow runs with that."""
    if was and was != (new := _name(name, 120)):
        if any(one.name.casefold() == new.casefold() != was.casefold() for one, _ in lists_of(account)):
            raise CannotSort(f"There is a list “{new}” already.")
        usages.give_name(account, "list", was, new, by)
        ContactList.objects.filter(account=account, name=was).update(name=new)
        renamed = Func(F("lists"), Value(was), Value(new), function="array_replace")
        Contact.objects.filter(account=account, lists__contains=[was]).update(lists=renamed)
    kept, _ = ContactList.objects.update_or_create(
        account=account,
        name=_name(name, 120),
        defaults={"about": about.strip()[:300], "offered": offered, "offered_as": offered_as.strip()[:200]},
    )
    return kept


@transaction.atomic
def drop_list(account: Account, name: str) -> int:
    """The list is gone, and nobody is on it any more; answers how many were. Nobody is told: no workflow starts."""
    without = Func(F("lists"), Value(name), function="array_remove")
    count = Contact.objects.filter(account=account, lists__contains=[name]).update(lists=without)
    ContactList.objects.filter(account=account, name=name).delete()
    return count


def consent_of(account: Account, agreed_since: datetime | None = None) -> dict[tuple[Channel, Purpose], dict[str, int]]:
    """By channel and purpose: how many have an address there, and what these have said; who agreed before an instant has
    "run_out"."""
    counted: dict[tuple[Channel, Purpose], dict[str, int]] = {}
    people = Contact.objects.filter(account=account, do_not_contact=False)
    for channel in CHANNELS:
        here = people.exclude(**{ADDRESS_OF[channel]: ""})
        reachable = here.count()
        said = Consent.objects.filter(contact__in=here, channel=channel).values_list("purpose", "state").order_by()
        before = (
            said.filter(state=Consent.State.GIVEN, at__lt=agreed_since).values_list("purpose") if agreed_since else None
        )
        old = dict(before.annotate(count=Count("id"))) if before is not None else {}
        counts = {(purpose, state): count for purpose, state, count in said.annotate(count=Count("id"))}
        for purpose in PURPOSES:
            own = {state: counts.get((purpose, state), 0) for state in ("given", "withdrawn", "asked")}
            nothing = reachable - sum(own.values())
            own["given"] -= (run_out := old.get(purpose, 0))
            counted[channel, purpose] = {"reachable": reachable, **own, "nothing": nothing, "run_out": run_out}
    return counted


def tags_of(account: Account) -> list[tuple[Tag, int]]:
    tags = Tag.objects.filter(account=account).annotate(count=Count("tagged")).order_by("name")
    return [(tag, tag.count) for tag in tags]
