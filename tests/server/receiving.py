"""A small system on this machine, outside of the application, that it asks."""

import threading
from http.server import BaseHTTPRequestHandler, HTTPServer
from typing import Any

from bluffside.server.practice.models import Account


class Receiver:
    """A small system on this machine that is asked; it answers as it is told."""

    def __init__(self) -> None:
        self.answers: list[tuple[int, dict[str, str], str]] = []
        self.asked: list[tuple[str, str, dict[str, str], str]] = []
        receiver = self

        class Handler(BaseHTTPRequestHandler):
            def _do(self) -> None:
                body = self.rfile.read(int(self.headers.get("Content-Length", 0))).decode()
                receiver.asked.append((self.command, self.path, dict(self.headers), body))
                status, headers, text = receiver.answers.pop(0) if receiver.answers else (200, {}, "thanks")
                self.send_response(status)
                for name, value in headers.items():
                    self.send_header(name, value)
                self.end_headers()
                self.wfile.write(text.encode())

            do_GET = do_POST = do_PUT = _do

            def log_message(self, *args: Any) -> None:
                pass

        self.server = HTTPServer(("127.0.0.1", 0), Handler)
        threading.Thread(target=self.server.serve_forever, daemon=True).start()

    @property
    def url(self) -> str:
        return f"http://127.0.0.1:{self.server.server_port}"


def allow(account: Account, *hosts: str) -> None:
    account.allowed_hosts = list(hosts)
    account.save()
