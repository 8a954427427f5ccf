"""Where requests may go: never, unasked, into the private network (server-side request forgery).

The name is resolved once, every address it has is looked at, and the connection is made to the very address that was
looked at, so that a name which answers differently the second time gains nothing. Redirects come through here again.
Not allowed: addresses that are not global (private, loopback, link-local, shared and the like by the IANA registries,
as Python's ipaddress knows them), unless whoever runs the installation allowed the name for the account; the shipped
stand-ins are allowed by name.
"""

import socket
from collections.abc import Iterable
from ipaddress import IPv6Address, ip_address
from urllib.parse import urlsplit

import httpcore
from django.conf import settings

PORTS = {"http": 80, "https": 443}


class NotAllowed(Exception):
    """Where the request may not go, in words."""


def is_public(address: str) -> bool:
    """Whether an IP address belongs to the public network; one that wraps another is judged by that, too."""
    ip = ip_address(address.split("%")[0])
    if isinstance(ip, IPv6Address):
        for inner in (ip.ipv4_mapped, ip.sixtofour, ip.teredo[1] if ip.teredo else None):
            if inner is not None:
                return inner.is_global
        if int(ip) >> 32 == 0x0064FF9B << 64:  # 64:ff9b::/96, RFC 6052: the last 32 bits are an IPv4 address
            return ip_address(int(ip) & 0xFFFFFFFF).is_global
    return ip.is_global and not ip.is_multicast


class Guard(httpcore.NetworkBackend):
    """Connects for httpcore, and refuses where a request may not go."""

    def __init__(self, allowed: Iterable[str]) -> None:
        self.allowed = {name.lower() for name in allowed}
        self.backend = httpcore.SyncBackend()

    def connect_tcp(
        self,
        host: str,
        port: int,
        timeout: float | None = None,
        local_address: str | None = None,
        socket_options: Iterable[httpcore.SOCKET_OPTION] | None = None,
    ) -> httpcore.NetworkStream:
        """Raises NotAllowed, and httpcore.ConnectError."""
        if stand_in := settings.BLUFFSIDE_STAND_INS.get(host.lower()):
            real = urlsplit(stand_in)
            host, port = real.hostname or "127.0.0.1", real.port or PORTS[real.scheme]
            return self.backend.connect_tcp(host, port, timeout, local_address, socket_options)
        addresses = resolve(host, port)
        if host.lower() not in self.allowed and (inside := [one for one in addresses if not is_public(one)]):
            raise NotAllowed(
                f"{host} leads into a private network ({inside[0]}), which is not allowed for this account"
            )
        return self.backend.connect_tcp(addresses[0], port, timeout, local_address, socket_options)

    def connect_unix_socket(self, *args: object, **more: object) -> httpcore.NetworkStream:
        raise NotAllowed("requests go to hosts, not to sockets of this machine")


def resolve(host: str, port: int) -> list[str]:
    """Every address of a name. Raises httpcore.ConnectError."""
    try:
        found = socket.getaddrinfo(host.strip("[]"), port, type=socket.SOCK_STREAM)
    except (OSError, UnicodeError) as error:
        raise httpcore.ConnectError(f"there is no host {host}: {error}") from None
    return list(dict.fromkeys(str(one[4][0]) for one in found))
