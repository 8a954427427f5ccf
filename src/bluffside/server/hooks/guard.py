"""Where requests may go: never, unasked, into the private network (server-side request forgery).

The name is resolved once, every address it has is looked at, and the connection is made to the very address that was
looked at, so that a name which answers differently the second time gains nothing. Redirects come through here again.
Not allowed: addresses that are not global (private, loopback, link-local, shared and the like by the IANA registries,
as Python's ipaddress knows them), unless whoever runs the installation allowed the name for the account; the shipped
stand-ins are allowed by name.
"""

import socket
import ssl
import time
from collections.abc import Iterable, Mapping
from ipaddress import IPv6Address, ip_address, ip_network
from typing import Any
from urllib.parse import urlsplit

import httpcore
from django.conf import settings

from bluffside.server.practice import installation

# Not for the public network, and global to Python 3.11's ipaddress: IETF protocol assignments (RFC 6890), site-local addresses
# (RFC 3879), local-use translation (RFC 8215), IPv4-compatible addresses (RFC 4291, 2.5.5.1).
NOT_PUBLIC = [ip_network(one) for one in ("192.0.0.0/24", "fec0::/10", "64:ff9b:1::/48", "::/96")]
STAND_IN_PATHS = "/outside/"  # what the shipped stand-ins serve; the rest of this machine is not theirs
PORTS = {"http": 80, "https": 443}


def stand_ins() -> Mapping[str, str]:
    """Where the simulated services are, by name; in real use there are none, unless it says so."""
    return settings.BLUFFSIDE_STAND_INS if installation.simulates("services") else {}


class NotAllowed(Exception):
    """Where the request may not go, in words."""


def is_public(address: str) -> bool:
    """Whether an IP address belongs to the public network; one that wraps another is judged by that, too."""
    ip = ip_address(address.split("%")[0])
    if any(ip.version == net.version and ip in net for net in NOT_PUBLIC):
        return False
    if isinstance(ip, IPv6Address):
        for inner in (ip.ipv4_mapped, ip.sixtofour, ip.teredo[1] if ip.teredo else None):
            if inner is not None:
                return inner.is_global
        if int(ip) >> 32 == 0x0064FF9B << 64:  # 64:ff9b::/96, RFC 6052: the last 32 bits are an IPv4 address
            return ip_address(int(ip) & 0xFFFFFFFF).is_global
    return ip.is_global and not ip.is_multicast


class Guard(httpcore.NetworkBackend):
    """Connects for httpcore, and refuses where a request may not go. All of a request is over by the `deadline` (of
    time.monotonic), however slowly its answer drips."""

    def __init__(self, allowed: Iterable[str], deadline: float) -> None:
        self.allowed = {name.lower() for name in allowed}
        self.backend = httpcore.SyncBackend()
        self.deadline = deadline

    def connect_tcp(
        self,
        host: str,
        port: int,
        timeout: float | None = None,
        local_address: str | None = None,
        socket_options: Iterable[httpcore.SOCKET_OPTION] | None = None,
    ) -> httpcore.NetworkStream:
        """Raises NotAllowed, and httpcore.ConnectError."""
        if stand_in := stand_ins().get(host.lower()):
            real = urlsplit(stand_in)
            host, port = real.hostname or "127.0.0.1", real.port or PORTS[real.scheme]
            return self._connect([host], port, timeout, local_address, socket_options)
        addresses = resolve(host, port)
        if host.lower() not in self.allowed and (inside := [one for one in addresses if not is_public(one)]):
            raise NotAllowed(
                f"{host} leads into a private network ({inside[0]}), which is not allowed for this account"
            )
        return self._connect(addresses, port, timeout, local_address, socket_options)

    def _connect(self, addresses: list[str], port: int, timeout: float | None, *more: Any) -> httpcore.NetworkStream:
        """To the first of the addresses that answers. Raises httpcore.ConnectError or ConnectTimeout."""
        for number, address in enumerate(addresses, start=1):
            try:
                stream = self.backend.connect_tcp(address, port, left(self.deadline, timeout), *more)
                return Hurried(stream, self.deadline)
            except (httpcore.ConnectError, httpcore.ConnectTimeout):
                if number == len(addresses):
                    raise
        raise httpcore.ConnectError("it has no address")

    def connect_unix_socket(self, *args: object, **more: object) -> httpcore.NetworkStream:
        raise NotAllowed("requests go to hosts, not to sockets of this machine")


def left(deadline: float, timeout: float | None) -> float:
    """Seconds that may be waited now. Raises httpcore.ReadTimeout when the deadline has passed."""
    until = deadline - time.monotonic()
    if until <= 0:
        raise httpcore.ReadTimeout("it took too long as a whole")
    return until if timeout is None else min(timeout, until)


class Hurried(httpcore.NetworkStream):
    """A stream on which nothing is waited for beyond a deadline."""

    def __init__(self, stream: httpcore.NetworkStream, deadline: float) -> None:
        self.stream, self.deadline = stream, deadline

    def read(self, max_bytes: int, timeout: float | None = None) -> bytes:
        return self.stream.read(max_bytes, left(self.deadline, timeout))

    def write(self, buffer: bytes, timeout: float | None = None) -> None:
        self.stream.write(buffer, left(self.deadline, timeout))

    def close(self) -> None:
        self.stream.close()

    def start_tls(
        self, ssl_context: ssl.SSLContext, server_hostname: str | None = None, timeout: float | None = None
    ) -> httpcore.NetworkStream:
        inner = self.stream.start_tls(ssl_context, server_hostname, left(self.deadline, timeout))
        return Hurried(inner, self.deadline)

    def get_extra_info(self, info: str) -> Any:
        return self.stream.get_extra_info(info)


def resolve(host: str, port: int) -> list[str]:
    """Every address of a name. Raises httpcore.ConnectError."""
    try:
        found = socket.getaddrinfo(host.strip("[]"), port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise httpcore.ConnectError(f"there is no host {host}: {error}") from None
    return list(dict.fromkeys(str(one[4][0]) for one in found))
