"""What an engine says of itself, in words."""

from __future__ import annotations

from zweistimme.engines.offers import EngineInfo, Usage
from zweistimme.engines.registry import Examined
from zweistimme.project.languages import english_name


def facts(found: Examined) -> list[tuple[str, str]]:
    """What is to be known of an engine, as rows; none if it did not answer."""
    info = found.info
    if info is None:
        return []
    rows = [("Reached", found.connection.place)] if found.connection.place else []
    if info.recognises:
        tells = "; tells them apart" if info.detects else ""
        rows.append(("Recognises", ", ".join(map(english_name, info.recognises)) + tells))
    if info.pairs:
        targets: dict[str, list[str]] = {}
        for source, target in info.pairs:
            targets.setdefault(english_name(source), []).append(english_name(target))
        rows.append(("Translates", "; ".join(f"{source} to {' and '.join(t)}" for source, t in targets.items())))
    if info.voices:
        rows.append(("Voices", ", ".join(f"{v.name} ({v.kind})" for v in info.voices)))
        languages = dict.fromkeys(language for v in info.voices for language in v.languages)
        rows.append(("Spoken", ", ".join(map(english_name, languages))))
    besides = _besides(info)
    if besides:
        rows.append(("Besides", besides))
    rows.append(("Limits", _limits(info)))
    rows.append(("Price", _price(info)))
    rows.append(("Used so far", _used(found.usage)))
    return rows


def _besides(info: EngineInfo) -> str:
    """What it does besides what every project asks for."""
    able = {
        "makes voices from samples": info.imitates,
        "describes pictures": info.describes,
        "drafts text": info.drafts,
        f"composes beds ({', '.join(info.moods)})": info.moods,
        "tells the tone of a text": info.senses,
    }
    return ", ".join(words for words, things in able.items() if things)


def _limits(info: EngineInfo) -> str:
    limits = info.limits
    parts = [f"{limits.characters:,} characters a request"] if limits.characters else []
    parts += [f"{limits.seconds:,.0f} s of sound a request"] if limits.seconds else []
    parts += [f"{limits.requests_a_minute:g} requests a minute"] if limits.requests_a_minute else []
    parts.append(f"{limits.at_once} at once")
    return ", ".join(parts)


def _price(info: EngineInfo) -> str:
    price = info.price
    parts = [f"{price.a_character * 1000:g} {price.currency} for 1,000 characters"] if price.a_character else []
    parts += [f"{price.a_second * 60:g} {price.currency} for a minute of sound"] if price.a_second else []
    return ", ".join(parts) or "free"


def _used(usage: Usage | None) -> str:
    if usage is None or usage == Usage():
        return "it keeps no account"
    used = usage.used
    parts = [f"{used.characters:,} characters"] if used.characters else []
    parts += [f"{used.seconds:,.0f} s of sound"] if used.seconds else []
    parts += [f"{used.amount:,.2f} {used.currency}"] if used.amount else []
    text = ", ".join(parts) or "nothing"
    return text + (f"; {usage.characters_left:,} characters left" if usage.characters_left is not None else "")
