"""How gunicorn's threads wait for what a client sends: not for long, so that requests half sent do not hold all of them.

A client that sends a byte now and then still holds a thread. On the open network a proxy that takes requests whole stands
in front (see the README).
"""

import socket
import struct
from typing import Any

from gunicorn.workers.gthread import ThreadWorker

PATIENCE = 8  # seconds without a byte


class Worker(ThreadWorker):  # type: ignore[misc]  # gunicorn has no types
    def handle(self, conn: Any) -> Any:
        # At the socket itself: gunicorn waits without a limit once it reads a request.
        conn.sock.setsockopt(socket.SOL_SOCKET, socket.SO_RCVTIMEO, struct.pack("ll", PATIENCE, 0))
        return super().handle(conn)
