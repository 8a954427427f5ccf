"""Makes the database that DATABASE_URL names, if it is not there, and the role that the application connects as.

Runs in the virtual environment, as the owner of the database.
"""

import os
import sys
from urllib.parse import unquote, urlsplit, urlunsplit

import psycopg
from psycopg import sql

from launcher.database import APP_ROLE, app_url


def create() -> None:
    url = urlsplit(os.environ["DATABASE_URL"])
    name = url.path.lstrip("/")
    try:
        psycopg.connect(os.environ["DATABASE_URL"], connect_timeout=10).close()
    except psycopg.OperationalError as error:
        if "does not exist" not in str(error):
            sys.exit(f"{url.hostname}:{url.port} does not let us in: {error}")
        with psycopg.connect(urlunsplit(url._replace(path="/postgres")), autocommit=True) as server:
            server.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(name)))
    with psycopg.connect(os.environ["DATABASE_URL"], autocommit=True) as server:
        if server.execute("SELECT to_regclass('workflows_decision')").fetchone() != (None,):
            sys.exit(f"The database {name} was made by an early version, and cannot be taken further. Remove it first.")
        _application_role(server)


def _application_role(server: psycopg.Connection[tuple[object, ...]]) -> None:
    """A role that may sign in and nothing more; what it may touch, the migrations grant. Who owns the database need not be
    allowed to make roles: then somebody makes it once who is."""
    known = server.execute("SELECT rolsuper OR rolbypassrls FROM pg_roles WHERE rolname = %s", [APP_ROLE]).fetchone()
    if known and known[0]:
        sys.exit(f"The role {APP_ROLE} can pass the walls between accounts. Take SUPERUSER and BYPASSRLS from it.")
    if known and _signs_in():
        return
    password = unquote(urlsplit(app_url(os.environ["DATABASE_URL"])).password or "")
    words = sql.SQL("{} ROLE {} LOGIN PASSWORD {}").format(
        sql.SQL("ALTER" if known else "CREATE"), sql.Identifier(APP_ROLE), sql.Literal(password)
    )
    try:
        server.execute(words)
    except psycopg.errors.InsufficientPrivilege:
        sys.exit(
            f"The application signs in as {APP_ROLE}, and the owner of the database may not {'change' if known else 'make'}"
            f" roles. Let somebody who may run: {'ALTER' if known else 'CREATE'} ROLE {APP_ROLE} LOGIN PASSWORD '…'; and name"
            f" where it signs in, as BLUFFSIDE_APP_URL=postgresql://{APP_ROLE}:…@host:port/name."
        )


def _signs_in() -> bool:
    try:
        psycopg.connect(app_url(os.environ["DATABASE_URL"]), connect_timeout=10).close()
    except psycopg.OperationalError:
        return False
    return True
