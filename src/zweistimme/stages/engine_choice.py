"""Which engine a stage asks."""

from __future__ import annotations

from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.offers import EngineInfo, Role
from zweistimme.project.languages import language_of
from zweistimme.project.model import Project


def engine_for(project: Project, role: Role, tag: str | None = None) -> str:
    """The engine asked for *role*: the version's own choice, else the project's, else the bundled one."""
    version = project.versions.get(tag) if tag else None
    return (version.engines.get(role) if version else None) or project.engines.get(role) or BUNDLED


def pair_known(info: EngineInfo, source: str, target: str) -> bool:
    """Whether an engine translates this pair, in whatever regions, as voices are matched; it may refuse a region."""

    def same(offered: str, wanted: str) -> bool:
        return language_of(offered) == language_of(wanted)

    return any(same(a, source) and same(b, target) for a, b in info.pairs)
