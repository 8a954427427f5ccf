"""Takes mail that comes in, by SMTP (RFC 5321), for the addresses of all accounts, until it is told to stop.

A mail is answered 250 once it is in the database, and 451 when that failed, so that it is brought again.
"""

import asyncio
import logging
import signal
from typing import Any

from aiosmtpd.controller import Controller
from aiosmtpd.smtp import SMTP, Envelope, Session
from asgiref.sync import sync_to_async
from django.core.management.base import BaseCommand, CommandParser
from django.db import connection

from bluffside.server.messaging.inbound import accounts_at, take_mail

LARGEST = 20 * 1024 * 1024
log = logging.getLogger("bluffside.mail")


class Postbox:
    """What aiosmtpd asks for each mail."""

    async def handle_RCPT(  # noqa: N802  # aiosmtpd names it
        self, server: SMTP, session: Session, envelope: Envelope, address: str, options: list[str]
    ) -> str:
        try:
            known = await sync_to_async(_known)(address)
        except Exception:
            log.exception("a recipient could not be looked up")
            return "451 try again later"
        if not known:
            return "550 nobody of that name is here"
        envelope.rcpt_tos.append(address)
        return "250 OK"

    async def handle_DATA(self, server: SMTP, session: Session, envelope: Envelope) -> str:  # noqa: N802
        try:
            content = envelope.content if isinstance(envelope.content, bytes) else str(envelope.content).encode()
            taken = await sync_to_async(_take)(content, list(envelope.rcpt_tos))
        except Exception:
            log.exception("a mail could not be taken")
            return "451 try again later"
        log.info("mail taken: %s", ", ".join(one.did for one in taken))
        return "250 taken"


def _known(address: str) -> bool:
    try:
        return bool(accounts_at([address]))
    except Exception:
        connection.close()
        raise


def _take(content: bytes, recipients: list[str]) -> list[Any]:
    try:
        return list(take_mail(content, recipients))
    except Exception:
        connection.close()
        raise


def postbox(host: str, port: int) -> Controller:
    """The listener, to be started and stopped."""
    return Controller(Postbox(), hostname=host, port=port, data_size_limit=LARGEST, enable_SMTPUTF8=True)


class Command(BaseCommand):
    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--host", default="127.0.0.1")
        parser.add_argument("--port", type=int, default=2525)

    def handle(self, *args: Any, **options: Any) -> None:
        controller = postbox(options["host"], options["port"])
        controller.start()
        self.stdout.write(f"Mail is taken at {options['host']}:{options['port']}.")
        waiting = asyncio.new_event_loop()
        for number in (signal.SIGTERM, signal.SIGINT):
            waiting.add_signal_handler(number, waiting.stop)
        waiting.run_forever()
        controller.stop()
