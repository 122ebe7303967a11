"""The licences of everything Zweistimme is built on, from what the installed packages say of themselves."""

from __future__ import annotations

import re
from importlib.metadata import distribution
from pathlib import Path

LOCK = Path(__file__).parents[1] / "requirements.lock"
HEAD = """# Licences

Zweistimme is free software under the GNU General Public License, version 3 or later ([LICENSE](../LICENSE)). Its demo,
its voices and its phrases are made for it and stand under the same licence. It is built on these packages, each under
its own; made by `make licences`.

| Package | Version | Licence |
| --- | --- | --- |"""


def licence_of(name: str) -> str:
    """The licence a package names: its expression, else its classifiers, else the first line of its field."""
    said = distribution(name).metadata
    classified = [text.rpartition("::")[2].strip() for text in said.get_all("Classifier") or () if "License ::" in text]
    field = (said.get("License") or "").strip().splitlines()
    return said.get("License-Expression") or ", ".join(classified) or (field[0][:80] if field else "see the package")


if __name__ == "__main__":
    print(HEAD)
    for entry in re.findall(r"^([A-Za-z0-9_.-]+)==", LOCK.read_text(), re.MULTILINE):
        try:
            print(f"| {entry} | {distribution(entry).version} | {licence_of(entry)} |")
        except Exception:
            continue
