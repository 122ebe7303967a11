"""Tokens live in the desktop's secret store, else in an environment variable; never in a file of ours, in a log or on
a command line. A token belongs to a connection and to the origin it was given for: at another address, or under
another name, it is not found.
"""

from __future__ import annotations

import os
import re
from typing import Final

from zweistimme.engines.origin import origin_of
from zweistimme.project.errors import EngineError, EngineRefused

_SERVICE: Final = "zweistimme"
PREFIX: Final = "ZWEISTIMME_TOKEN_"


def variable_for(address: str) -> str:
    """The environment variable that may hold the token for the origin of an address. No two hosts share one.

    >>> variable_for("https://north-quay.example/v2"), variable_for("http://127.0.0.1:8766")
    ('ZWEISTIMME_TOKEN_NORTH__QUAY_EXAMPLE_443', 'ZWEISTIMME_TOKEN_127_0_0_1_8766')
    """
    origin = origin_of(address)
    host = origin.host.upper().replace("-", "__").replace(".", "_")
    host = re.sub(r"[^A-Z0-9_]", lambda sign: f"_{ord(sign.group()):X}_", host)
    return f"{PREFIX}{host}_{origin.port}"


def token_for(name: str, address: str) -> str | None:
    """The token of a connection, if one is kept anywhere."""
    import keyring
    from keyring.errors import KeyringError

    try:
        kept = keyring.get_password(_SERVICE, _entry(name, address))
    except KeyringError:
        kept = None
    return kept or os.environ.get(variable_for(address)) or None


def keep_token(name: str, address: str, token: str) -> None:
    """Keep a token in the secret store; EngineError with the way out where there is none, EngineRefused where it
    could be read on its way."""
    import keyring
    from keyring.errors import KeyringError

    check_private(name, address)
    try:
        keyring.set_password(_SERVICE, _entry(name, address), token)
    except KeyringError:
        raise EngineError(
            "There is no secret store on this desktop to keep the token in. Set {variable_for} in the"
            " environment instead; the token was not kept anywhere.",
            variable_for=variable_for(address),
        ) from None


def forget_token(name: str, address: str) -> None:
    """Take the token of a connection out of the secret store."""
    import keyring
    from keyring.errors import KeyringError

    try:
        keyring.delete_password(_SERVICE, _entry(name, address))
    except KeyringError:
        return  # none was kept there


def check_private(name: str, address: str) -> None:
    """EngineRefused if a token shown at this address could be read on its way."""
    if not origin_of(address).is_private:
        raise EngineRefused(
            "{name} is reached at {address} without encryption, so no token is sent there. Give an address that begins"
            " with https://, or one on this machine.",
            name=name,
            address=address,
        )


def _entry(name: str, address: str) -> str:
    return f"{name} at {origin_of(address)}"
