"""Any engine offered over HTTP by the protocol, with faults that can be switched on for tests."""

from zweistimme.server.account import Terms
from zweistimme.server.app import make_app
from zweistimme.server.faults import FAULTS, Faults, parsed_faults
from zweistimme.server.run import Serving, running, running_app, serve_engine

__all__ = [
    "FAULTS",
    "Faults",
    "Serving",
    "Terms",
    "make_app",
    "parsed_faults",
    "running",
    "running_app",
    "serve_engine",
]
