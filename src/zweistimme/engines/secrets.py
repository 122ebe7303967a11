"""Tokens live in the desktop's secret store, else in an environment variable; never in a file of ours, in a log or on
a command line.
"""

from __future__ import annotations

import os
import re
from typing import Final

from zweistimme.project.errors import EngineError

_SERVICE: Final = "zweistimme"


def variable_for(name: str) -> str:
    """The environment variable that may hold the token of a connection.

    >>> variable_for("north quay")
    'ZWEISTIMME_TOKEN_NORTH_QUAY'
    """
    return "ZWEISTIMME_TOKEN_" + re.sub(r"[^A-Z0-9]+", "_", name.upper())


def token_for(name: str) -> str | None:
    """The token of a connection, if one is kept anywhere."""
    import keyring
    from keyring.errors import KeyringError

    try:
        kept = keyring.get_password(_SERVICE, name)
    except KeyringError:
        kept = None
    return kept or os.environ.get(variable_for(name)) or None


def keep_token(name: str, token: str) -> None:
    """Keep a token in the secret store; EngineError with the way out where there is none."""
    import keyring
    from keyring.errors import KeyringError

    try:
        keyring.set_password(_SERVICE, name, token)
    except KeyringError:
        raise EngineError(
            "There is no secret store on this desktop to keep the token in. Set {variable_for} in the"
            " environment instead; the token was not kept anywhere.",
            variable_for=variable_for(name),
        ) from None


def forget_token(name: str) -> None:
    """Take the token of a connection out of the secret store."""
    import keyring
    from keyring.errors import KeyringError

    try:
        keyring.delete_password(_SERVICE, name)
    except KeyringError:
        return  # none was kept there
