"""Makes the database that DATABASE_URL names, if it is not there. Runs in the virtual environment."""

import os
import sys
from urllib.parse import urlsplit, urlunsplit

import psycopg


def create() -> None:
    url = urlsplit(os.environ["DATABASE_URL"])
    name = url.path.lstrip("/")
    try:
        psycopg.connect(os.environ["DATABASE_URL"], connect_timeout=10).close()
        return
    except psycopg.OperationalError as error:
        if "does not exist" not in str(error):
            sys.exit(f"{url.hostname}:{url.port} does not let us in: {error}")
    with psycopg.connect(urlunsplit(url._replace(path="/postgres")), autocommit=True) as server:
        server.execute(psycopg.sql.SQL("CREATE DATABASE {}").format(psycopg.sql.Identifier(name)))
