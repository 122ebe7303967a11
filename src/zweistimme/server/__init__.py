"""Any engine offered over HTTP by protocol v1, with faults that can be switched on for tests."""

from zweistimme.server.app import Terms, make_app
from zweistimme.server.faults import FAULTS, Faults, parsed_faults
from zweistimme.server.run import Serving, running, serve_engine

__all__ = ["FAULTS", "Faults", "Serving", "Terms", "make_app", "parsed_faults", "running", "serve_engine"]
