"""Where a service is: what a token is bound to, and whether it may be shown there at all."""

from __future__ import annotations

import ipaddress
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


def _is_number(host: str | None) -> bool:
    try:
        ipaddress.ip_address(host or "")
    except ValueError:
        return False
    return True
