"""An account's file of everything, and its deletion for good: in this order, a part at a time, and nothing of another's."""

import gzip
import json
from typing import Any

import pytest
from django.apps import apps
from django.db.models import ForeignKey

from bluffside.server import sql
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account, AccountExport, Connection, DeletedAccount, ExportPart
from bluffside.server.practice.sealing import seal
from bluffside.server.practice.walls import within
from bluffside.server.set_up import deleting, whole_export
from bluffside.server.worker import until_quiet
from tests.server.conftest import House
from tests.server.test_keeping import live


@pytest.fixture(autouse=True)
def _small_parts(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(whole_export, "PART", 3)
    monkeypatch.setattr(deleting, "PART", 3)


@pytest.fixture
def filled(house: House) -> House:
    """Both accounts have a little of everything, and secrets."""
    for account in (house.sailing, house.pottery):
        live(house, account)
        AccountExport.objects.filter(account=account).delete()
        Connection.objects.create(account=account, kind="host", name="x.example.com", key_sealed=seal("their-key"))
        Account.objects.filter(id=account.id).update(signing_key_sealed=seal("whsec_x"))
    until_quiet()
    return house


def counts(account: Account) -> dict[str, int]:
    with within(account):
        found = {
            table: sql.rows(f"SELECT count(*) FROM {table} WHERE account_id = %s", [account.id])[0][0]
            for table in whole_export.own_tables()
        }
    return {table: count for table, count in found.items() if count}


def practice(house: House, signed_in: Any, method: str, path: str, body: Any = None) -> Any:
    client = signed_in(house.consultant)
    more = [] if body is None else [json.dumps(body)]
    return client.generic(method, f"/api/practice/{path}", *more, content_type="application/json")


def test_the_file_has_every_row_once_and_no_secret_and_is_begun_anew(filled: House, signed_in: Any) -> None:
    way = "accounts/sailing/file"
    assert practice(filled, signed_in, "GET", way).status_code == 409
    assert practice(filled, signed_in, "POST", way).status_code == 204
    with within(filled.sailing):  # a worker that dies after some parts leaves the rest to the next
        for _ in range(3):
            whole_export.export_batch(filled.sailing)
        assert 0 < AccountExport.objects.get().rows < AccountExport.objects.get().total
    there = counts(filled.sailing)
    until_quiet()
    answer = practice(filled, signed_in, "GET", way)
    content = b"".join(answer.streaming_content)
    assert int(answer["Content-Length"]) == len(content)
    first, *lines = map(json.loads, gzip.decompress(content).decode().splitlines())
    assert (first["format"], first["account"]["name"]) == ("bluffside-account/1", "Sailing")
    assert [one["name"] for one in first["people"]] == ["Mel R"]
    found: dict[str, int] = {}
    for line in lines:
        found[line["table"]] = found.get(line["table"], 0) + 1
        assert line["row"]["account_id"] == filled.sailing.id
    assert {table: count for table, count in found.items() if table != "practice_auditentry"} == {
        table: count for table, count in there.items() if table != "practice_auditentry"
    }
    assert not {
        name for line in [{"row": first["account"]}, *lines] for name in line["row"] if name.endswith("_sealed")
    }
    assert practice(filled, signed_in, "POST", way).status_code == 204
    with within(filled.sailing):
        assert not ExportPart.objects.exists()
    assert practice(filled, signed_in, "DELETE", way).status_code == 204
    until_quiet()
    row = next(one for one in practice(filled, signed_in, "GET", "").json()["accounts"] if one["slug"] == "sailing")
    assert (row["file"]["state"], row["file"]["share"]) == ("stopped", 0.0)
    assert practice(filled, signed_in, "GET", "accounts/elsewhere/file").status_code == 404
    assert signed_in(filled.member).get(f"/api/practice/{way}").status_code == 403


def test_an_account_goes_only_when_put_away_taken_out_and_named_and_then_wholly(filled: House, signed_in: Any) -> None:
    def delete(name: str = "Sailing") -> tuple[int, str]:
        answer = practice(filled, signed_in, "POST", "accounts/sailing/delete", {"name": name})
        return answer.status_code, answer.json()["detail"] if answer.content else ""

    practice(filled, signed_in, "POST", "accounts/sailing/file")
    until_quiet()
    practice(filled, signed_in, "GET", "accounts/sailing/file")
    assert delete() == (409, "Put it away first.")
    practice(filled, signed_in, "POST", "accounts/sailing/put-away")
    assert delete() == (409, "Make a file of everything it owns first.")  # one from before is not of everything
    practice(filled, signed_in, "POST", "accounts/sailing/file")
    until_quiet()
    assert delete() == (409, "Take the file of everything it owns first.")
    b"".join(practice(filled, signed_in, "GET", "accounts/sailing/file").streaming_content)
    assert delete("sailing") == (409, "Type the name as it is written here: Sailing")
    pottery, rows = counts(filled.pottery), sum(counts(filled.sailing).values())
    assert delete() == (204, "")
    client = signed_in(filled.consultant)
    assert client.get("/api/accounts/sailing/today").status_code == 404
    assert [one["slug"] for one in client.get("/api/session").json()["accounts"]] == ["pottery"]
    shown = practice(filled, signed_in, "GET", "").json()
    assert [one["state"] for one in shown["accounts"]] == ["live", "being deleted"]
    assert practice(filled, signed_in, "POST", "accounts/sailing/bring-back").status_code == 404
    with within(filled.sailing):  # a worker that dies leaves the rest to the next
        assert deleting.delete_batch(filled.sailing) <= deleting.PART
    until_quiet()
    assert not Account.objects.filter(slug="sailing").exists()
    assert (counts(filled.sailing), counts(filled.pottery)) == ({}, pottery)
    [gone] = practice(filled, signed_in, "GET", "").json()["deleted"]
    assert (gone["name"], gone["by"], gone["gone"]) == ("Sailing", "Imogen F", True)
    assert gone["rows"] >= rows
    assert DeletedAccount.objects.get().gone_at <= clock.now()


def test_whatever_hangs_on_an_account_is_in_the_order_of_deleting() -> None:
    """A new table whose rows hang on an account's, without saying whose they are, would stand in the way for ever."""
    order = deleting.in_order()
    own = set(order.models)
    at = {model: number for number, model in enumerate(order.models)}
    for model in apps.get_models(include_auto_created=True):
        for field in model._meta.concrete_fields:
            if not isinstance(field, ForeignKey) or field.related_model not in own:
                continue
            assert model in own, f"{model._meta.label}.{field.name}"
            assert at[model] < at[field.related_model] or (model, field.name) in order.loose
    assert not [model for model in apps.get_models() if _hangs_on_account(model) and model not in own]


def _hangs_on_account(model: Any) -> bool:
    return any(
        isinstance(field, ForeignKey) and field.related_model is Account for field in model._meta.concrete_fields
    )
