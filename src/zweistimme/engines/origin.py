"""Where a service is: what a token is bound to, and whether it may be shown there at all."""

from __future__ import annotations

import ipaddress
import socket
from dataclasses import dataclass
from typing import Final
from urllib.parse import urlsplit

from zweistimme.project.errors import EngineError

_PORTS: Final = {"http": 80, "https": 443}


@dataclass(frozen=True, slots=True)
class Origin:
    """Scheme, host and port (RFC 6454): two addresses of one origin belong to one owner, others do not."""

    scheme: str
    host: str
    port: int

    def __str__(self) -> str:
        host = f"[{self.host}]" if ":" in self.host else self.host
        return f"{self.scheme}://{host}:{self.port}"

    @property
    def is_private(self) -> bool:
        """Whether nobody on the way can read along: encrypted, or within this machine."""
        return self.scheme == "https" or is_loopback(self.host)


def origin_of(address: str) -> Origin:
    """The origin of an address; EngineError for what is none.

    >>> str(origin_of("https://Quay.example/engine"))
    'https://quay.example:443'
    """
    try:
        parts = urlsplit(address.strip())
        host = (parts.hostname or "").encode("idna").decode() if not _is_number(parts.hostname) else parts.hostname
        port = parts.port or _PORTS.get(parts.scheme, 0)
    except ValueError:  # a bracket that is not closed, a port that is none, a name no register would take
        parts, host, port = urlsplit(""), "", 0
    if parts.scheme not in _PORTS or not host:
        raise EngineError(
            "“{address}” is no address of a service. It begins with https:// or http://.", address=address
        )
    return Origin(parts.scheme, host.lower(), port)


def is_loopback(host: str) -> bool:
    """Whether a host is this machine itself, without asking anybody.

    >>> is_loopback("127.0.0.7"), is_loopback("localhost"), is_loopback("0.0.0.0")
    (True, True, False)
    """
    try:
        return ipaddress.ip_address(host).is_loopback
    except ValueError:
        return host == "localhost"


def is_local(host: str) -> bool:
    """Whether a host is this machine or in its own network, where what is asked may do something: by its number, or by
    any of those its name has.

    >>> is_local("10.0.0.8"), is_local("169.254.169.254"), is_local("::ffff:127.0.0.1"), is_local("8.8.8.8")
    (True, True, True, False)
    """
    if host == "localhost" or host.endswith(".localhost"):
        return True
    try:
        numbers = [host] if _is_number(host) else [str(info[4][0]) for info in socket.getaddrinfo(host, None)]
    except (OSError, UnicodeError):
        return False  # a name that nobody knows leads nowhere
    return any(_is_inside(ipaddress.ip_address(number.partition("%")[0])) for number in numbers)


def _is_inside(address: ipaddress.IPv4Address | ipaddress.IPv6Address) -> bool:
    mapped = getattr(address, "ipv4_mapped", None) or address
    return not mapped.is_global or mapped.is_multicast


def _is_number(host: str | None) -> bool:
    try:
        ipaddress.ip_address(host or "")
    except ValueError:
        return False
    return True
