"""Requests to other systems: signed by the Standard Webhooks specification, tried again, kept, and kept out of the
private network."""

import json
import os
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from datetime import timedelta
from typing import Any

import httpcore
import pytest
from django.conf import settings
from django.test import Client, override_settings
from launcher.database import app_url
from standardwebhooks.webhooks import Webhook, WebhookVerificationError

from bluffside.server.events.models import Event
from bluffside.server.events.stream import WORLD, Cause
from bluffside.server.hooks import following, guard, sending, signing
from bluffside.server.hooks.models import Call
from bluffside.server.hooks.signing import key_of
from bluffside.server.messaging.models import Message
from bluffside.server.outside.models import Asked
from bluffside.server.outside.stand_ins.series import on_series
from bluffside.server.people.models import ContactImport, ImportPart
from bluffside.server.practice import clock
from bluffside.server.practice.models import Account
from bluffside.server.practice.sealing import seal
from bluffside.server.worker import until_quiet
from bluffside.server.workflows import enrolling
from tests.server.conftest import NOON, House
from tests.server.receiving import Receiver, allow


def ask(house: House, url: str, **more: Any) -> Call:
    step = {"kind": "webhook", "id": "w", "url": url, "body": '{"who": "{{ contact.email }}"}'} | more
    workflow = house.workflow(steps=[step], starts=[{"kind": "by_hand"}], leaves_on=[])
    enrolling.enrol(workflow, [house.contact().id], "test", Cause())
    until_quiet()
    return Call.objects.get()


def test_a_request_is_made_as_it_is_written_and_its_signature_holds(house: House, receiver: Receiver) -> None:
    """The signature is checked by the reference library `standardwebhooks`."""
    allow(house.sailing, "127.0.0.1")
    query, headers = [{"name": "from", "value": "a & b"}], [{"name": "X-Who", "value": "{{ contact.first_name }}"}]
    call = ask(house, f"{receiver.url}/in?x=1", query=query, headers=headers)
    assert (call.state, call.status, call.answer, call.attempts) == ("answered", 200, "thanks", 1)
    [(method, path, sent, body)] = receiver.asked
    assert (method, path, json.loads(body)) == ("POST", "/in?x=1&from=a+%26+b", {"who": "p1@example.com"})
    assert (sent["X-Who"], sent["Content-Type"], sent["webhook-id"]) == ("P1", "application/json", call.key)
    house.sailing.refresh_from_db()
    assert Webhook(key_of(house.sailing)).verify(body, sent) == {"who": "p1@example.com"}
    with pytest.raises(WebhookVerificationError):
        Webhook(key_of(house.sailing)).verify(body.replace("p1", "p2"), sent)
    assert Event.objects.get(kind="webhook.answered").data["status"] == 200


def test_the_signature_is_that_of_the_specifications_example() -> None:
    """The example of the Standard Webhooks specification's libraries; values from memory."""
    secret = "whsec_MfKQ9r8GKYqrTwjUPD8ILPZIo2LaLaSw"
    signed = signing.signature(secret, "msg_p5jXN8AQM9LWM0D4loKWxJek", 1614265330, '{"test": 2432232314}')
    assert signed == "v1,g0hM9SsE+OTPJTGt/tmIKtSyZlE3uFJELVlNIOLJ1OE="


def test_who_is_busy_is_asked_again_with_the_same_id_and_who_refuses_is_not(house: House, receiver: Receiver) -> None:
    allow(house.sailing, "127.0.0.1")
    receiver.answers = [(503, {}, "busy"), (200, {}, "now"), (404, {}, "gone")]
    with clock.at(NOON) as move_to:
        call = ask(house, receiver.url)
        assert (call.state, call.reason) == ("queued", "answered with 503")
        assert NOON < call.next_try_at < NOON + timedelta(minutes=1)
        move_to(NOON + timedelta(minutes=1))
        until_quiet()
        call.refresh_from_db()
        assert (call.state, call.answer, call.attempts) == ("answered", "now", 2)
        assert receiver.asked[0][2]["webhook-id"] == receiver.asked[1][2]["webhook-id"]
        Call.objects.update(state="queued", next_try_at=NOON)
        until_quiet()
        call.refresh_from_db()
        assert (call.state, call.reason) == ("failed", "answered with 404")
        sending.retry(call)
        until_quiet()
        call.refresh_from_db()
        assert call.state == "answered"


def test_a_dead_worker_s_request_is_made_again_when_its_lease_runs_out(house: House, receiver: Receiver) -> None:
    allow(house.sailing, "127.0.0.1")
    call = ask(house, receiver.url)
    Call.objects.update(state="sending", leased_until=NOON)
    until_quiet()
    assert [one[2]["webhook-id"] for one in receiver.asked] == [call.key] * 2


# ---- not into the private network


@pytest.mark.parametrize(
    "host",
    ["127.0.0.1", "localhost", "10.1.2.3", "192.168.0.9", "172.16.5.4", "169.254.169.254", "100.64.0.1", "0.0.0.0",
     "[::1]", "[fe80::1]", "[fd00::1]", "[::ffff:10.0.0.1]", "[64:ff9b::a00:1]", "[2002:a00:1::]", "2130706433",
     "0x7f.1", "192.0.0.170", "[fec0::1]", "[64:ff9b:1::a00:1]", "[::7f00:1]"],
)  # fmt: skip
def test_no_address_of_a_private_network_is_asked(house: House, host: str) -> None:
    """RFC 1918, RFC 6598, RFC 3927, RFC 4193, RFC 4291; and the same in other spellings."""
    call = ask(house, f"http://{host}/in")
    assert call.state == "failed" or "no host" in call.reason, call.reason
    assert "private network" in call.reason or "no host" in call.reason


def test_public_addresses_are_public() -> None:
    assert all(map(guard.is_public, ["198.41.0.4", "2001:500:2::c", "::ffff:198.41.0.4"]))


def test_a_name_that_leads_inside_is_found_out_and_so_is_one_that_changes_its_answer(
    house: House, receiver: Receiver, monkeypatch: pytest.MonkeyPatch
) -> None:
    """DNS rebinding: the address that was looked at is the one that is connected to; the name is not asked again."""
    answers = [["198.41.0.4", "10.0.0.1"], ["198.41.0.4"], ["127.0.0.1"]]
    connected: list[str] = []

    def resolve(host: str, port: int) -> list[str]:
        return answers.pop(0)

    def connect(self: Any, host: str, port: int, *rest: Any) -> Any:
        connected.append(host)
        raise httpcore.ConnectError("as far as this test goes")

    monkeypatch.setattr(guard, "resolve", resolve)
    monkeypatch.setattr(httpcore.SyncBackend, "connect_tcp", connect)
    call = ask(house, "http://inside.example/in")
    assert "private network (10.0.0.1)" in call.reason
    Call.objects.update(state="queued", attempts=0)
    until_quiet()
    assert connected == ["198.41.0.4"]


def test_a_redirect_is_looked_at_like_the_first_address(house: House, receiver: Receiver) -> None:
    allow(house.sailing, "127.0.0.1")
    receiver.answers = [(302, {"Location": "http://169.254.169.254/secrets"}, "")]
    call = ask(house, receiver.url)
    assert call.state == "failed" and "169.254.169.254" in call.reason
    receiver.answers = [(307, {"Location": "/again"}, ""), (200, {}, "here")]
    sending.retry(call)
    until_quiet()
    call.refresh_from_db()
    assert (call.answer, receiver.asked[-1][:2]) == ("here", ("POST", "/again"))
    receiver.answers = [(302, {"Location": "/round"}, "")] * 5
    Call.objects.update(state="queued")
    until_quiet()
    call.refresh_from_db()
    assert "more than 3 times" in call.reason


def test_another_host_does_not_get_the_password_that_the_line_holds(house: House, receiver: Receiver) -> None:
    allow(house.sailing, "127.0.0.1", "localhost")
    here = receiver.url.replace("127.0.0.1", "localhost")
    receiver.answers = [(307, {"Location": f"{receiver.url}/there"}, "")]
    call = ask(house, here, headers=[{"name": "Authorization", "value": "Bearer secret"}])
    assert call.state == "answered"
    assert [one[2].get("Authorization") for one in receiver.asked] == ["Bearer secret", None]


def test_the_lists_of_the_outside_service_change_through_the_signed_stand_in(house: House, receiver: Receiver) -> None:
    """The shipped stand-in is allowed by its name, and turns away what is not signed."""
    put = {"kind": "outside_series", "id": "o", "service": "Gull Post", "name": "News"}
    workflow = house.workflow(steps=[put], starts=[{"kind": "by_hand"}], leaves_on=[])
    contact = house.contact()
    enrolling.enrol(workflow, [contact.id], "test", Cause())
    with override_settings(BLUFFSIDE_STAND_INS={"stand-in.example": receiver.url}):
        until_quiet()
    [(_, path, headers, body)] = receiver.asked
    signed = {name: value for name, value in headers.items() if name.startswith("webhook-") or name == "Host"}
    for _ in range(2):
        answer = Client().post(path, body, content_type="application/json", headers=signed)
        assert answer.status_code == 200
    assert Asked.objects.get().times == 2
    assert on_series("sailing", contact.id) == {("Gull Post", "list", "News"): True}
    changed = Client().post(path, body.replace("News", "All"), content_type="application/json", headers=signed)
    assert changed.status_code == 401


def test_a_host_nobody_can_find_is_told_in_words(house: House, monkeypatch: pytest.MonkeyPatch) -> None:
    def nowhere(*_: Any, **__: Any) -> Any:
        raise socket.gaierror("not known")

    monkeypatch.setattr(socket, "getaddrinfo", nowhere)
    assert "there is no host nowhere.example" in ask(house, "http://nowhere.example").reason


class Dripping:
    """A server that answers a byte at a time, for as long as somebody listens."""

    def __init__(self) -> None:
        self.listens = socket.create_server(("127.0.0.1", 0))
        self.port = self.listens.getsockname()[1]
        threading.Thread(target=self._serve, daemon=True).start()

    def _serve(self) -> None:
        while True:
            try:
                line, _ = self.listens.accept()
            except OSError:
                return
            threading.Thread(target=self._drip, args=(line,), daemon=True).start()

    def _drip(self, line: socket.socket) -> None:
        with suppress(OSError), line:
            for letter in b"HTTP/1.1 200 OK\r\nX-Slow: " + b"x" * 1_000:
                line.sendall(bytes([letter]))
                time.sleep(0.05)


def test_an_answer_that_drips_is_given_up_and_the_next_requests_do_not_wait_for_it(
    house: House, receiver: Receiver, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(following, "DEADLINE", 0.6)
    allow(house.sailing, "127.0.0.1")
    slow = Dripping()
    urls = [f"http://127.0.0.1:{slow.port}/"] * 5 + [f"{receiver.url}/in"] * 3
    calls = [sending.NewCall(0, None, f"k{number}", "GET", url, "") for number, url in enumerate(urls)]
    sending.queue(house.sailing, calls)
    began = time.monotonic()
    assert sending.call_batch(house.sailing) == 8
    assert time.monotonic() - began < 5 * 0.6  # side by side, not one after another
    assert Call.objects.filter(state="answered").count() == 3
    waiting = Call.objects.filter(state="queued").values_list("reason", flat=True)
    assert len(waiting) == 5 and all(reason.startswith("no answer: ") for reason in waiting)
    slow.listens.close()


def test_the_door_to_the_stand_ins_leads_to_them_alone(house: House) -> None:
    assert "serves no /metrics" in ask(house, "http://stand-in.example/metrics").reason


@pytest.mark.parametrize("secret", ["", "whsec_AAAA"])
def test_nobody_signs_with_no_secret(house: House, secret: str) -> None:
    house.sailing.signing_key_sealed = seal(secret)
    house.sailing.save()
    body = json.dumps({"account": "sailing"})
    now = int(time.time())
    headers = {
        "webhook-id": "k",
        "webhook-timestamp": str(now),
        "webhook-signature": signing.signature(secret, "k", now, body),
    }
    answer = Client().post("/outside/anything", body, content_type="application/json", headers=headers)
    assert answer.status_code == (401 if not secret else 200)


def test_a_worker_sends_anothers_text_while_one_account_does_all_the_harm_it_can(
    committed_house: House, owner_url: str
) -> None:
    """A real worker: requests that drip for as long as they may, and an import and an intake that fail each time."""
    house, slow = committed_house, Dripping()
    bad = house.pottery
    Account.objects.filter(id=bad.id).update(allowed_hosts=["127.0.0.1"])
    urls = [f"http://127.0.0.1:{slow.port}/{number}" for number in range(40)]
    sending.queue(bad, [sending.NewCall(0, None, url, "GET", url, "") for url in urls])
    file = {
        "file_name": "f",
        "columns": ["x"],
        "row_count": 9,
        "state": "running",
        "settings": {"mapping": {"7": "email"}},
    }
    broken = ContactImport.objects.create(account=bad, **file)
    ImportPart.objects.create(account=bad, of=broken, first=0, rows=[["x"]])
    wanted = house.workflow()
    env = os.environ | {"DATABASE_URL": app_url(owner_url), "PYTHONPATH": str(settings.ROOT / "src")}
    worker = subprocess.Popen([sys.executable, "-m", "django", "work"], env=env, cwd=settings.ROOT)
    try:
        until(lambda: Call.objects.filter(account=bad, state="sending").count() > 1, 30)
        contact = house.contact()
        began = time.monotonic()
        enrolling.enrol(wanted, [contact.id], "test", WORLD)
        until(lambda: Message.objects.filter(contact=contact, sent_at__isnull=False).exists(), 30)
        assert time.monotonic() - began < 2.0
        assert Call.objects.filter(account=bad, state="sending").exists()  # it was at it all the time
    finally:
        slow.listens.close()
        worker.kill()
        worker.wait()


def until(so: Callable[[], bool], seconds: float) -> None:
    over = time.monotonic() + seconds
    while not so():
        assert time.monotonic() < over, "it does not come"
        time.sleep(0.05)
