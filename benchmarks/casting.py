"""Casting: voices proposed for everybody at once, against the truth of generated programmes; the voice map drawn."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from benchmarks.timing import Row, Rows, figure, seconds
from zweistimme.engines.offers import VoiceInfo
from zweistimme.project.voice_traits import VoiceTraits
from zweistimme.sound.features import RATE
from zweistimme.sound.voice_traits import voice_traits
from zweistimme.stages.cast.likeness import distances, features, plane
from zweistimme.stages.cast.proposing import PersonToCast, VoiceOnOffer, proposals
from zweistimme.stages.cast.voice_map import VoiceMap
from zweistimme.standin.voice import VOICES, speak

TAG = "de-DE"
_SAID = {
    "en-GB": "Every evening the harbour lies quiet, and the boats come in with the tide. Who forgot the ropes again?",
    "de-DE": "Jeden Abend liegt der Hafen still, und die Boote kommen herein. Wer hat schon wieder das Seil vergessen?",
    "es-ES": "Cada tarde el puerto queda en silencio, y los barcos entran. ¿Quién olvidó otra vez las cuerdas?",
}


def casting() -> Rows:
    """Time, and how often the voice that somebody really has is proposed."""
    random = np.random.default_rng(7)
    voices = _voices(random, 400)
    people = _people(random, voices, 40)
    took = 1000 * seconds(lambda: proposals(people, voices, TAG))
    yield figure("propose 40 people among 400 voices", took, "ms", "wanted: 100 ms")
    at_once, by_pitch = [], []
    for _ in range(20):
        voices = _voices(random, 60)
        people = _people(random, voices, 8)
        found = proposals(people, voices, TAG)
        at_once += [found[person.key].voice == person.key for person in people]
        by_pitch += [voice == person.key for person, voice in zip(people, _by_pitch(people, voices), strict=True)]
    figures = f"{np.mean(at_once):.0%}", f"by pitch: {np.mean(by_pitch):.0%}"
    yield Row("their own voice proposed, of 60, 160 people", *figures)
    yield from _spoken()
    yield from _drawn(random)


def _voices(random: np.random.Generator, count: int) -> list[VoiceOnOffer]:
    """Women, men and children, spread as people are."""
    made = []
    for place in range(count):
        kind = ("woman", "man", "child")[int(random.choice(3, p=(0.45, 0.45, 0.1)))]
        hz, tract = {"woman": (205, 1.13), "man": (118, 1.0), "child": (280, 1.3)}[kind]
        traits = VoiceTraits(
            float(hz * random.normal(1, 0.13)), float(random.gamma(9, 0.25)), float(tract * random.normal(1, 0.04)),
            float(random.normal(4, 2.5)), float(random.normal(11.5, 2.2)), float(random.normal(4, 0.5)), 9.0,
        )  # fmt: skip
        made.append(VoiceOnOffer(f"v{place}", VoiceInfo(f"v{place}", f"V{place}", kind, (TAG,)), traits))
    return made


def _people(random: np.random.Generator, voices: Sequence[VoiceOnOffer], count: int) -> list[PersonToCast]:
    """People who have some of these voices, measured as well as one can in half a minute of a programme."""
    chosen = random.choice(len(voices), count, replace=False)
    found = []
    for place in chosen:
        true = voices[place].traits
        assert true is not None
        assert true.pitch_hz is not None
        heard = replace(
            true, pitch_hz=true.pitch_hz * random.normal(1, 0.04), tract=true.tract * random.normal(1, 0.02),
            spread_st=true.spread_st * random.normal(1, 0.15), bright_db=true.bright_db + random.normal(-8, 2.0),
            harmonic_db=true.harmonic_db + random.normal(-2, 1.0), pace=true.pace * random.normal(1, 0.1),
        )  # fmt: skip
        found.append(PersonToCast(voices[place].ref, voices[place].ref, heard))
    return found


def _by_pitch(people: Sequence[PersonToCast], voices: Sequence[VoiceOnOffer]) -> list[str]:
    """One after the other, the nearest in pitch that nobody has."""
    taken: list[str] = []
    for person in people:
        assert person.traits is not None
        hz = person.traits.pitch_hz or 0.0
        free = [voice for voice in voices if voice.ref not in taken]
        taken.append(min(free, key=lambda voice: abs((voice.traits.pitch_hz or 0) - hz) if voice.traits else 0).ref)
    return taken


def _spoken() -> Rows:
    """The bundled voices, measured in one language, proposed for people who speak with them in another."""
    known = {tag: {voice.id: _measured(voice.id, tag) for voice in VOICES} for tag in _SAID}
    right = count = 0
    for tag in ("de-DE", "es-ES"):
        voices = [VoiceOnOffer(v.id, VoiceInfo(v.id, v.name, v.kind, (tag,)), known[tag][v.id]) for v in VOICES]
        people = [PersonToCast(v.id, v.name, known["en-GB"][v.id]) for v in VOICES]
        found = proposals(people, voices, tag)
        right += sum(found[person.key].voice == person.key for person in people)
        count += len(people)
    yield Row("bundled voices found again in another language", f"{right} of {count}", "one of eight by chance")


def _measured(voice_id: str, tag: str) -> VoiceTraits | None:
    import soxr

    voice = next(one for one in VOICES if one.id == voice_id)
    samples = speak(_SAID[tag], tag, voice).samples
    return voice_traits(np.asarray(soxr.resample(samples, 48_000, RATE, "HQ"), dtype=np.float32))


def _drawn(random: np.random.Generator) -> Rows:
    from PyQt6.QtGui import QPixmap

    from zweistimme.window.app import make_app
    from zweistimme.window.casting.map_view import VoiceMapView

    app = make_app()
    voices = _voices(random, 2_000)
    people = _people(random, voices, 12)

    def made() -> VoiceMap:
        persons, offered = features([one.traits for one in people]), features([one.traits for one in voices])
        places = plane(np.concatenate((persons, offered)))
        count = len(people)
        steps = distances(persons, offered)
        return VoiceMap(tuple(people), tuple(voices), places[:count], places[count:], steps, offered)

    yield figure("places of 2,000 voices and 12 people", 1000 * seconds(made), "ms")
    view = VoiceMapView()
    view.resize(800, 500)
    view.show_map(made(), {})
    view.show_cast({person.key: person.key for person in people})
    picture = QPixmap(view.size())
    yield figure(
        "a frame of the map, 2,000 voices", 1000 * seconds(lambda: view.render(picture)), "ms", "wanted: 16 ms"
    )

    def zoomed() -> None:
        view.zoom(1.01)
        view.render(picture)

    yield figure("a frame while zooming", 1000 * seconds(zoomed), "ms", "wanted: 16 ms")
    app.processEvents()
