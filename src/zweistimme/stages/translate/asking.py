"""Asking an engine for lines: gathered into requests, with all that goes along, and nothing put anywhere yet."""

from __future__ import annotations

from collections.abc import Sequence

from zweistimme.engines.offers import Cost, EngineInfo, Limits
from zweistimme.engines.protocol import Engine, Translation, TranslationItem, TranslationRequest, Wording, Wordings
from zweistimme.engines.text_pieces import pieces
from zweistimme.messages import tr
from zweistimme.project.errors import EngineError
from zweistimme.project.facts import spoken_segments
from zweistimme.project.languages import spoken_tag
from zweistimme.project.model import Project, Segment
from zweistimme.project.writing import joined
from zweistimme.stages.answers import translated
from zweistimme.stages.engine_choice import pair_known
from zweistimme.stages.translate.situations import about_of, terms_for
from zweistimme.stages.work import Work

Batch = tuple[TranslationItem, ...]


class Asking:
    """Asks one engine for lines of a version, in words of *source_tag*."""

    def __init__(self, work: Work, engine: Engine, tag: str, source_tag: str) -> None:
        self._work, self._engine, self._tag, self._source_tag = work, engine, tag, source_tag

    def answer(self, batch: Batch) -> Translation:
        """One request; an item longer than the engine takes goes alone, in pieces that are joined again."""
        most = self._engine.info().limits.characters
        if most is None or sum(map(_sent, batch)) <= most:
            return self._asked(batch)
        (item,) = batch
        parts = pieces(item.text, lambda piece: len(piece) <= most)
        answers = [self._asked((TranslationItem(item.id, part, situation=item.situation),)) for part in parts]
        if not all(answer.items for answer in answers):
            return Translation((), sum((a.cost for a in answers), Cost()))
        fullest = [answer.items[0].wordings[0] for answer in answers]
        shortest = [answer.items[0].wordings[-1] for answer in answers]
        wordings = tuple(dict.fromkeys((_in_one(fullest), _in_one(shortest))))
        return Translation((Wordings(item.id, wordings),), sum((a.cost for a in answers), Cost()))

    def _asked(self, batch: Batch) -> Translation:
        project, info = self._work.project, self._engine.info()
        terms = terms_for(project, self._tag, (item.text for item in batch), whole=info.situations)
        request = TranslationRequest(
            self._source_tag, spoken_tag(self._tag), batch, terms, about=about_of(project, info)
        )
        return translated(self._work, self._engine, request)


def check_pair(info: EngineInfo, source: str, tag: str) -> None:
    """An EngineError, with what it knows, where an engine does not translate between two languages."""
    if pair_known(info, source, tag):
        return
    known = ", ".join(tr("{source} to {targets}", source=a, targets=b) for a, b in info.pairs) or tr("no languages")
    raise EngineError(
        "{engine} does not translate {source} to {tag}; it knows {known}.",
        engine=info.name,
        source=source,
        tag=tag,
        known=known,
    )


def _in_one(wordings: Sequence[Wording]) -> Wording:
    return Wording(joined([w.text for w in wordings]), sum(w.spoken_us for w in wordings))


def items_of(project: Project, todo: Sequence[Segment]) -> list[TranslationItem]:
    """Segments as items, each with its neighbours."""
    spoken = spoken_segments(project)
    place = {segment.id: number for number, segment in enumerate(spoken)}
    items = []
    for segment in todo:
        number = place[segment.id]
        before = spoken[number - 1].text if number else ""
        after = spoken[number + 1].text if number + 1 < len(spoken) else ""
        items.append(TranslationItem(segment.id, segment.text, before, after))
    return items


def _sent(item: TranslationItem) -> int:
    return len(item.text) + len(item.before) + len(item.after)


def batched(items: Sequence[TranslationItem], limits: Limits) -> list[Batch]:
    """Items gathered into requests no larger than the engine takes. One item alone may be larger."""
    batches: list[Batch] = []
    size = 0
    for item in items:
        fits = limits.characters is None or size + _sent(item) <= limits.characters
        if batches and len(batches[-1]) < limits.items and fits:
            batches[-1] += (item,)
            size += _sent(item)
        else:
            batches.append((item,))
            size = _sent(item)
    return batches
