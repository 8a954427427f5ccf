"""A practice with two accounts on the real PostgreSQL, and what tests of the server do with them."""

import json
import os
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from typing import Any
from urllib.parse import unquote, urlsplit

import psycopg
import pytest
from django.conf import settings
from django.db import connection
from django.test import Client
from launcher.database import APP_ROLE, app_url

from bluffside.core.workflow.files import parse_workflow
from bluffside.server.people.models import Contact
from bluffside.server.people.services import add_contact
from bluffside.server.practice import installation, walls
from bluffside.server.practice.models import Account, Membership, Person, Practice
from bluffside.server.workflows import writing
from bluffside.server.workflows.models import Workflow
from tests import databases
from tests.core.examples import ASK
from tests.server.receiving import Receiver

settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]  # a house a test: quick, and no secret
NOON = datetime(2026, 3, 2, 12, tzinfo=UTC)


@dataclass
class House:
    practice: Practice
    sailing: Account
    pottery: Account
    consultant: Person
    member: Person  # of the team of sailing alone

    def contact(self, number: int = 1, account: Account | None = None) -> Contact:
        fields = {"first_name": f"P{number}", "email": f"p{number}@example.com", "mobile": f"+447700900{number:03}"}
        return add_contact(account or self.sailing, fields)

    def workflow(self, account: Account | None = None, **changes: Any) -> Workflow:
        """The example of asking by text, published."""
        document = parse_workflow(ASK | changes)
        made = writing.create(account or self.sailing, document, self.consultant)
        writing.publish(made, made.revision, self.consultant)
        return Workflow.objects.select_related("account", "published").get(id=made.id)


def make_house() -> House:
    practice = Practice.objects.create(name="Lantern")
    accounts = [
        Account.objects.create(
            practice=practice,
            slug=slug,
            name=slug.title(),
            zone="Europe/London",
            region="GB",
            text_number=f"+44770090090{number}",
            sender_name=slug.title(),
            sender_email=f"hello@{slug}.example.com",
            postal_address="1 Quay",
        )
        for number, slug in enumerate(["sailing", "pottery"])
    ]
    walls.enter(*accounts)
    make = Person.objects.create_user
    consultant = make("imogen@example.com", "long-enough-1", name="Imogen F", practice=practice, is_consultant=True)
    member = make("mel@example.com", "long-enough-2", name="Mel R", practice=practice)
    Membership.objects.create(account=accounts[0], person=member, role="team")
    Account.objects.update(responsible=member)
    for account in accounts:
        account.refresh_from_db()
    return House(practice, accounts[0], accounts[1], consultant, member)


def connect_to(url: str) -> None:
    """Has the tests of this process connect to the database, and as the role, that a URL names."""
    parts = urlsplit(url)
    connection.close()
    for where in (settings.DATABASES["default"], connection.settings_dict):
        where["NAME"] = parts.path.lstrip("/")
        where["USER"], where["PASSWORD"] = unquote(parts.username or ""), unquote(parts.password or "")


@pytest.fixture(scope="session")
def owner_url(worker_id: str) -> Iterator[str]:
    """Where its owner finds the database of this process's tests: BLUFFSIDE_TESTED, which whoever sets it has made, or one
    of its own."""
    if given := os.environ.get("BLUFFSIDE_TESTED"):
        yield databases.url_of(given)
        return
    with databases.copy(databases.blank(), f"test_bluffside_{worker_id}") as url:
        yield url


@pytest.fixture(scope="session")
def django_db_setup(owner_url: str, django_db_blocker: Any) -> Iterator[None]:
    """Tests connect as the application does, behind the walls."""
    with psycopg.connect(owner_url, autocommit=True) as owner:  # for emptying the tables after tests that commit
        owner.execute(f"GRANT TRUNCATE ON ALL TABLES IN SCHEMA public TO {APP_ROLE}")
    with django_db_blocker.unblock():
        connect_to(app_url(owner_url))
    yield
    with django_db_blocker.unblock():
        connect_to(os.environ["DATABASE_URL"])


@pytest.fixture
def house(db: None) -> House:
    return make_house()


@pytest.fixture
def committed_house(transactional_db: None) -> House:
    """Committed, so that other processes see it."""
    return make_house()


@pytest.fixture
def signed_in() -> Callable[[Person], Client]:
    def sign_in(person: Person) -> Client:
        client = Client()
        client.force_login(person, "bluffside.server.signing_in.adapters.Backend")
        return client

    return sign_in


@pytest.fixture(autouse=True)
def _nothing_learnt() -> None:
    """What a process has learnt of its installation is not of the next test's."""
    installation.forget()


@pytest.fixture
def api(house: House, signed_in: Any) -> Any:
    """Calls the API of sailing as the consultant; answers status and data."""
    client: Client = signed_in(house.consultant)

    def call(method: str, path: str, body: Any = None) -> Any:
        answer = client.generic(
            method,
            f"/api/accounts/sailing/{path}",
            *([] if body is None else [json.dumps(body)]),
            content_type="application/json",
        )
        is_data = answer.content and answer.headers["Content-Type"].startswith("application/json")
        return answer.status_code, answer.json() if is_data else answer.content.decode("utf-8", "replace")

    return call


@pytest.fixture
def receiver() -> Iterator[Receiver]:
    one = Receiver()
    yield one
    one.server.shutdown()
