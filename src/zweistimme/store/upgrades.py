"""What an older project needs to become one of today: a step for each number of the schema."""

from __future__ import annotations

import json
import sqlite3
from collections.abc import Callable
from typing import Final

from zweistimme.project.facts import fingerprint
from zweistimme.project.findings import AS_WRITTEN

Upgrade = Callable[[sqlite3.Connection], None]


def _first(connection: sqlite3.Connection) -> None:
    connection.execute("CREATE TABLE record(kind TEXT, key TEXT, body BLOB NOT NULL, PRIMARY KEY(kind, key))")
    connection.execute(
        "CREATE TABLE entry(id INTEGER PRIMARY KEY AUTOINCREMENT, label TEXT NOT NULL, undone INTEGER NOT NULL)"
    )
    connection.execute(
        "CREATE TABLE change(entry INTEGER REFERENCES entry(id) ON DELETE CASCADE,"
        " kind TEXT, key TEXT, before BLOB, after BLOB)"
    )
    connection.execute("CREATE INDEX change_of_entry ON change(entry)")


def _gestures(connection: sqlite3.Connection) -> None:
    """Entries of one gesture or one run are undone together."""
    connection.execute("ALTER TABLE entry ADD COLUMN gesture TEXT NOT NULL DEFAULT ''")


def _reasons(connection: sqlite3.Connection) -> None:
    """Why a take stands where it stands was a sentence, and is findings. Older desks would also drop hesitations,
    terms, engines and what was said again without a word; the number keeps them out."""
    _rewritten(connection, "placement", _with_findings)


def _rewritten(connection: sqlite3.Connection, kind: str, anew: Callable[[bytes], bytes]) -> None:
    """Write every row of a kind anew, also those of the history."""
    for table, column in (("record", "body"), ("change", "before"), ("change", "after")):
        query = f"SELECT rowid, {column} FROM {table} WHERE kind = ? AND {column} IS NOT NULL"
        rows = [(_anew(anew, body), row) for row, body in connection.execute(query, (kind,))]
        connection.executemany(f"UPDATE {table} SET {column} = ? WHERE rowid = ?", rows)


def _anew(change: Callable[[bytes], bytes], body: bytes) -> bytes:
    """A row changed; one that is damaged stays as it is, to be repaired or said when it is read."""
    try:
        return change(body)
    except (ValueError, TypeError, AttributeError, RecursionError):
        return body


def _with_findings(body: bytes) -> bytes:
    placement = json.loads(body)
    if "reason" in placement:
        reason = placement.pop("reason")
        placement["why"] = [{"code": AS_WRITTEN, "figures": {"text": reason}}] if reason else []
    return json.dumps(placement, ensure_ascii=False, separators=(",", ":")).encode()


def _identity(connection: sqlite3.Connection) -> None:
    """A project has an id, by which the ledger knows it wherever its folder lies."""
    connection.execute("CREATE TABLE about(name TEXT PRIMARY KEY, value TEXT NOT NULL)")
    connection.execute("INSERT INTO about VALUES('id', lower(hex(randomblob(8))))")


def _notes(connection: sqlite3.Connection) -> None:
    """What is to be known of a programme was sentences, and is findings; failures are kept from now on."""
    _rewritten(connection, "project", _with_notes)


def _with_notes(body: bytes) -> bytes:
    head = json.loads(body)
    programme = head.get("programme") or {}
    if "notes" in programme:
        written = [note for note in programme["notes"] if isinstance(note, str)]
        programme["notes"] = [{"code": AS_WRITTEN, "figures": {"text": text}} for text in written]
    return json.dumps(head, ensure_ascii=False, separators=(",", ":")).encode()


def _manners(_connection: sqlite3.Connection) -> None:
    """Manners of voices and who made what are kept from now on; an older desk would drop them, and the number keeps it
    from trying."""


def _caption_limits(_connection: sqlite3.Connection) -> None:
    """What captions are held to, and which versions are left out, are kept from now on, in the same way."""


def _line_states(connection: sqlite3.Connection) -> None:
    """Lines know how far they are, where their words come from, and where those of every wording on offer do."""
    _rewritten(connection, "line", _with_state)


def _with_state(body: bytes) -> bytes:
    line = json.loads(body)
    if line.pop("by_hand", False):
        line |= {"state": "translated", "origin": {"kind": "person"}}
    elif line.get("maker"):
        line["origin"] = {"kind": "engine", "name": line["maker"].get("engine", "")}
    line["offers"] = [{"text": text, "origin": line.get("origin")} for text in line.pop("shorter", ())]
    return json.dumps(line, ensure_ascii=False, separators=(",", ":")).encode()


def _terms(connection: sqlite3.Connection) -> None:
    """Names and terms were words in the head of the project that stay as they are; each is a row of its own now, in the
    history too."""
    (before,) = connection.execute("SELECT body FROM record WHERE kind = 'project'").fetchone() or (None,)
    for key, body in _terms_of(before).items():
        connection.execute("INSERT OR REPLACE INTO record(kind, key, body) VALUES('term', ?, ?)", (key, body))
    query = "SELECT entry, before, after FROM change WHERE kind = 'project'"
    for entry, before, after in connection.execute(query).fetchall():
        old, new = _terms_of(before), _terms_of(after)
        rows = [(entry, key, old.get(key), new.get(key)) for key in {**old, **new} if old.get(key) != new.get(key)]
        connection.executemany("INSERT INTO change(entry, kind, key, before, after) VALUES(?, 'term', ?, ?, ?)", rows)
    _rewritten(connection, "project", _without_terms)


def _terms_of(head: bytes | None) -> dict[str, bytes]:
    try:
        words = json.loads(head).get("terms", ()) if head else ()
    except (ValueError, AttributeError, RecursionError):
        return {}
    if not isinstance(words, list | tuple):
        return {}
    return {
        fingerprint("term", word): json.dumps({"source": word, "kept": True}, ensure_ascii=False).encode()
        for word in words
        if isinstance(word, str)
    }


def _without_terms(body: bytes) -> bytes:
    head = json.loads(body)
    head.pop("terms", None)
    return json.dumps(head, ensure_ascii=False, separators=(",", ":")).encode()


def _chosen_voices(connection: sqlite3.Connection) -> None:
    """It is known from now on whose voice a person chose; of what was there before nobody knows, so all of it stays."""
    _rewritten(connection, "version", _with_chosen)


def _with_chosen(body: bytes) -> bytes:
    head = json.loads(body)
    head["cast_chosen"] = list(head.get("cast") or ())
    return json.dumps(head, ensure_ascii=False, separators=(",", ":")).encode()


def _sayings(_connection: sqlite3.Connection) -> None:
    """How words are said is kept from now on, in rows that an older desk does not know."""


def _auditions(_connection: sqlite3.Connection) -> None:
    """Lines with voices of their own, what is thought of takes, and auditions are kept from now on."""


def _phrases(_connection: sqlite3.Connection) -> None:
    """Placements have phrases from now on."""


def _mixes(_connection: sqlite3.Connection) -> None:
    """Versions have mixes, deliveries and limits of their own from now on, and lines places and hands on them."""


def _set_aside(connection: sqlite3.Connection) -> None:
    """Rows that broke a rule are kept as they were beside what was made of them."""
    connection.execute("CREATE TABLE IF NOT EXISTS aside(kind TEXT, key TEXT, body BLOB NOT NULL)")


UPGRADES: Final[dict[int, Upgrade]] = {
    0: _first, 1: _gestures, 2: _reasons, 3: _identity, 4: _notes, 5: _manners, 6: _caption_limits,
    7: _line_states, 8: _terms, 9: _chosen_voices, 10: _sayings, 11: _auditions, 12: _phrases,
    13: _mixes, 14: _set_aside,
}  # fmt: skip
"""From a schema number to the step that leads to the next."""
SCHEMA: Final = len(UPGRADES)
