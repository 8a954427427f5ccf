"""The merge fields that an account's messages can name: the usual ones, and those by names of its own."""

from bluffside.core.messages.merge import FIELDS, booking_path, detail_path, is_known, own_path, times_path
from bluffside.server.people.queries import field_kinds
from bluffside.server.practice.models import Account


def merge_fields(account: Account) -> dict[str, str]:
    """What each is called, by its path."""
    found = {one.path: one.label for one in FIELDS}
    found |= {own_path(name): name for name in field_kinds(account)}
    found |= {detail_path(one["name"]): one["name"] for one in account.details}
    for name in sorted(account.booking_pages):
        found |= {path(name): is_known(path(name)) for path in (booking_path, times_path)}
    return found
