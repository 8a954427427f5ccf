"""What mail servers report of mails that went out: it bounced, or somebody marked it as unwanted."""

from datetime import timedelta
from email import message_from_bytes
from email.policy import default
from typing import Any

from bluffside.server.events.models import Event
from bluffside.server.messaging.inbound import take_mail
from bluffside.server.messaging.models import Message, Reply
from bluffside.server.outside.models import Item
from bluffside.server.practice import clock
from bluffside.server.worker import until_quiet
from tests.server.conftest import House
from tests.server.test_delivery import EMAIL, Collected, enrol, mail_server  # noqa: F401


def test_a_delivery_report_that_says_failed_is_a_bounce(house: House, mail_server: Collected) -> None:  # noqa: F811
    """RFC 3464: multipart/report with Action: failed; the example's form, from memory of the RFC."""
    [contact] = enrol(house, [EMAIL])
    until_quiet()
    ours = message_from_bytes(mail_server.wires[0], policy=default)["Message-ID"]
    report = f"""From: Mail Delivery <mailer-daemon@mx.example>
To: hello@sailing.example.com
Subject: Undelivered
MIME-Version: 1.0
Message-ID: <b1@mx.example>
Content-Type: multipart/report; report-type=delivery-status; boundary="=x"

--=x

It did not work.
--=x
Content-Type: message/delivery-status

Reporting-MTA: dns; mx.example

Final-Recipient: rfc822; p1@example.com
Action: failed
Status: 5.1.1
Diagnostic-Code: smtp; 550 5.1.1 no such user

--=x
Content-Type: message/rfc822

Message-ID: {ours}
Subject: Ahoy

Hi
--=x--
"""
    take_mail(report.encode(), ["hello@sailing.example.com"])
    message = Message.objects.get()
    assert (message.state, message.reason) == ("failed", "smtp; 550 5.1.1 no such user")
    contact.refresh_from_db()
    assert contact.exhausted == ["email"]
    assert not Reply.objects.exists()


REPORTED = """From: <feedback@mx.example>
To: hello@sailing.example.com
Subject: FW: Ahoy
MIME-Version: 1.0
Message-ID: <f{n}@mx.example>
Content-Type: multipart/report; report-type=feedback-report; boundary="part1_13d.2e68ed54"

--part1_13d.2e68ed54
Content-Type: text/plain; charset="US-ASCII"
Content-Transfer-Encoding: 7bit

This is an email abuse report for an email message received.
--part1_13d.2e68ed54
Content-Type: message/feedback-report

Feedback-Type: {sort}
User-Agent: SomeGenerator/1.0
Version: 1

--part1_13d.2e68ed54
Content-Type: message/rfc822
Content-Disposition: inline

From: <hello@sailing.example.com>
Message-ID: {about}
Subject: Ahoy

Hi
--part1_13d.2e68ed54--
"""


def test_who_marks_an_email_as_unwanted_gets_no_more_marketing_and_is_counted_once(
    house: House,
    mail_server: Collected,  # noqa: F811
) -> None:
    """RFC 5965, the example of its appendix B.1, from memory of the RFC; not-spam is RFC 6430."""
    waits = [{"kind": "wait", "id": "w", "duration": "1 day"}, EMAIL | {"id": "again"}]
    reminds = [{"kind": "wait", "id": "v", "duration": "1 day"}, EMAIL | {"id": "owed", "purpose": "service"}]
    [contact] = enrol(house, [EMAIL, *waits, *reminds])
    until_quiet()
    ours = message_from_bytes(mail_server.wires[0], policy=default)["Message-ID"]
    forged = ours.replace("<m.", "<m.1")
    for n, (sort, about) in enumerate([("not-spam", ours), ("abuse", forged), ("abuse", ours), ("abuse", ours)]):
        take_mail(REPORTED.format(n=n, sort=sort, about=about).encode(), ["hello@sailing.example.com"])
        took = Event.objects.filter(kind="message.complained").count()
        assert took == (n >= 2), (sort, about)
    take_mail(REPORTED.format(n=9, sort="abuse", about=ours).encode(), ["hello@pottery.example.com"])
    said = Event.objects.get(kind="message.complained")
    assert (said.data["message"], said.data["reason"], said.contact_id) == ("M", "abuse", contact.pk)
    assert [*contact.consents.filter(state="withdrawn").values_list("channel", "purpose")] == [("email", "marketing")]
    with clock.at(clock.now()) as move_to:
        for day in (2, 4):
            move_to(said.at + timedelta(days=day))
            until_quiet()
    assert [one.purpose for one in Message.objects.filter(state__in=["sent", "delivered"])] == ["marketing", "service"]


def test_the_simulated_mailbox_reports_as_a_mail_provider_does(house: House, api: Any) -> None:
    [contact] = enrol(house, [EMAIL])
    until_quiet()
    mail, other = Item.objects.get(), house.contact(2)
    assert api("POST", f"outside/{other.pk}/unwanted/{mail.pk}")[0] == 404, "it came to another mailbox"
    assert api("POST", f"outside/{contact.pk}/unwanted/{mail.pk}")[0] == 200
    assert Message.objects.get().complained_at and not Reply.objects.exists()
