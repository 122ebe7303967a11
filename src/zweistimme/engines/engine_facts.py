"""What an engine says of itself, in words."""

from __future__ import annotations

from typing import Final

from zweistimme.engines.offers import EngineInfo, Usage
from zweistimme.engines.registry import Examined
from zweistimme.messages import listed, money, msg, tr
from zweistimme.project.languages import language_name

KINDS: Final = (msg("woman"), msg("man"), msg("child"))
"""What most engines call the kinds of their voices; others are shown as they are called."""


def facts(found: Examined) -> list[tuple[str, str]]:
    """What is to be known of an engine, as rows; none if it did not answer."""
    info = found.info
    if info is None:
        return []
    rows = [(tr("Reached"), found.connection.place)] if found.connection.place else []
    if info.recognises:
        tells = tr("; tells them apart") if info.detects else ""
        rows.append((tr("Recognises"), ", ".join(map(language_name, info.recognises)) + tells))
    if info.pairs:
        targets: dict[str, list[str]] = {}
        for source, target in info.pairs:
            targets.setdefault(language_name(source), []).append(language_name(target))
        rows.append(
            (
                tr("Translates"),
                "; ".join(
                    tr("{source} to {targets}", source=source, targets=listed(t)) for source, t in targets.items()
                ),
            )
        )
    if info.voices:
        rows.append((tr("Voices"), ", ".join(f"{v.name} ({tr(v.kind)})" for v in info.voices)))
        languages = dict.fromkeys(language for v in info.voices for language in v.languages)
        rows.append((tr("Spoken"), ", ".join(map(language_name, languages))))
    besides = _besides(info)
    if besides:
        rows.append((tr("Besides"), besides))
    rows.append((tr("Limits"), _limits(info)))
    rows.append((tr("Price"), _price(info)))
    rows.append((tr("Used so far"), _used(found.usage)))
    return rows


def _besides(info: EngineInfo) -> str:
    """What it does besides what every project asks for."""
    able = {
        tr("makes voices from samples"): info.imitates,
        tr("describes pictures"): info.describes,
        tr("drafts text"): info.drafts,
        tr("composes beds ({moods})", moods=", ".join(info.moods)): info.moods,
        tr("tells the tone of a text"): info.senses,
    }
    return ", ".join(words for words, things in able.items() if things)


def _limits(info: EngineInfo) -> str:
    limits = info.limits
    parts = [tr("{characters:,} characters a request", characters=limits.characters)] if limits.characters else []
    parts += [tr("{seconds:,.0f} s of sound a request", seconds=limits.seconds)] if limits.seconds else []
    parts += [tr("{n:g} requests a minute", n=limits.requests_a_minute)] if limits.requests_a_minute else []
    parts.append(tr("{at_once} at once", at_once=limits.at_once))
    return ", ".join(parts)


def _price(info: EngineInfo) -> str:
    price = info.price
    parts = (
        [tr("{amount:g} {currency} for 1,000 characters", amount=price.a_character * 1000, currency=price.currency)]
        if price.a_character
        else []
    )
    parts += (
        [tr("{amount:g} {currency} for a minute of sound", amount=price.a_second * 60, currency=price.currency)]
        if price.a_second
        else []
    )
    return ", ".join(parts) or tr("free")


def _used(usage: Usage | None) -> str:
    if usage is None or usage == Usage():
        return tr("it keeps no account")
    used = usage.used
    parts = [tr("{characters:,} characters", characters=used.characters)] if used.characters else []
    parts += [tr("{seconds:,.0f} s of sound", seconds=used.seconds)] if used.seconds else []
    parts += [money(used.amount, used.currency)] if used.amount else []
    text = ", ".join(parts) or tr("nothing")
    return text + (
        tr("; {characters:,} characters left", characters=usage.characters_left)
        if usage.characters_left is not None
        else ""
    )
