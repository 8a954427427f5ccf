"""How much is asked of the database: a page costs the same however much there is, and an open page almost nothing."""

import json
from typing import Any

from django.db import connection
from django.test.utils import CaptureQueriesContext

from bluffside.server.api import api as the_api
from bluffside.server.capture import forms
from bluffside.server.events.stream import Cause
from bluffside.server.people.models import ContactList, Field
from bluffside.server.people.services import add_tags
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from tests.server.conftest import House


def more_of_everything(house: House, api: Any, first: int, last: int) -> None:
    for n in range(first, last):
        account = house.sailing
        contact = house.contact(n)
        workflow = house.workflow(name=f"Workflow {n}")
        enrolling.enrol(workflow, [contact.id], "test", Cause())
        add_tags(account, [(contact.id, f"tag {n}", Cause())])
        Field.objects.create(account=account, name=f"Field {n}", kind="text")
        ContactList.objects.create(account=account, name=f"List {n}")
        form = forms.make(account, f"Form {n}")
        forms.change(form, forms.design_of(form), True)
        assert (
            api("POST", "segments", {"name": f"Segment {n}", "condition": {"test": "tag", "tag": f"tag {n}"}})[0] < 300
        )
        assert api("POST", "lead-sources", {"name": f"Source {n}"})[0] < 300
    until_quiet()


SLACK = 3
LISTS = sorted(path.rpartition("{account}/")[2] for path, way in the_api.get_openapi_schema()["paths"].items()
               if path.startswith("/api/accounts/{account}/") and path.count("{") == 1 and "get" in way)  # fmt: skip


def test_a_list_costs_as_many_queries_for_many_as_for_few(house: House, api: Any) -> None:
    def asked() -> dict[str, list[str]]:
        """By list, the statements; without those that are asked now and then (of the installation)."""
        found = {}
        for path in LISTS:
            api("GET", path)  # what is learnt once and kept
            with CaptureQueriesContext(connection) as statements:
                status = api("GET", path)[0]
            if status == 200:
                found[path] = [one["sql"] for one in statements if "practice_installation" not in one["sql"]]
        return found

    more_of_everything(house, api, 1, 4)
    few = asked()
    assert len(few) > 25
    more_of_everything(house, api, 4, 12)
    # Eight more of everything: one a row would be eight more. A loaded machine asks for one or two things once more.
    assert {path: said for path, said in asked().items() if len(said) > len(few[path]) + SLACK} == {}


def test_an_open_page_asks_one_query_a_second_and_hears_of_its_own_account_alone(
    house: House, api: Any, signed_in: Any
) -> None:
    def pulse() -> int:
        with CaptureQueriesContext(connection) as asked:
            last = int(api("GET", "pulse")[1]["last"])
        # The test's own connection has entered an account, which no request finds.
        assert (
            len([one for one in asked if "bluffside.accounts" not in one["sql"] and "set_config" not in one["sql"]])
            == 1
        )
        return last

    api("GET", "pulse")
    before = pulse()
    api("GET", "contacts")
    assert pulse() == before  # reading is not writing
    house.contact(1, house.pottery)
    client = signed_in(house.consultant)
    given = json.dumps({"first_name": "Wren", "email": "wren@example.com"})
    assert client.post("/api/accounts/pottery/contacts", given, content_type="application/json").status_code == 201
    assert pulse() == before  # nor is what another account does
    assert api("POST", "contacts", {"first_name": "Wren", "email": "wren@example.com"})[0] == 201
    assert (after := pulse()) > before
    enrolling.enrol(house.workflow(), [house.contact(2).id], "test", Cause())
    until_quiet()  # what a worker does is heard of, too
    assert pulse() > after
