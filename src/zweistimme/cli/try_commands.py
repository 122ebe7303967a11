"""``zweistimme try ROLE``: one question to an engine, outside of any project, and what comes back."""

from __future__ import annotations

import base64
import json
from collections.abc import Callable
from dataclasses import asdict
from datetime import date
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, TypeVar

import typer

from zweistimme.cli.app import App, CommandError
from zweistimme.cli.console import out
from zweistimme.cli.options import JsonOption
from zweistimme.engines.connections import BUNDLED
from zweistimme.engines.extra_questions import asked_extra, check_role
from zweistimme.engines.extra_roles import (
    Bed,
    BedRequest,
    BedSection,
    Consent,
    Description,
    DescriptionRequest,
    Draft,
    DraftRequest,
    ImitationRequest,
    MadeVoice,
    SeenPicture,
    ToneItem,
    ToneRequest,
    Tones,
    VoiceSample,
)
from zweistimme.engines.ledger import Ledger
from zweistimme.engines.offers import Cost, Role
from zweistimme.engines.protocol import (
    Engine,
    RecognitionQuestion,
    SoundSource,
    SpeechRequest,
    TranslationItem,
    TranslationRequest,
)
from zweistimme.engines.registry import engine
from zweistimme.formats.ssml import ssml_of
from zweistimme.messages import tr
from zweistimme.project.times import RATE, SECOND_US, clock
from zweistimme.stages.composed_bed import section_of

trying = App(name="try", help="Ask an engine one thing, outside of any project.")
EngineOption = typer.Option(BUNDLED, "--engine", help="Which engine is asked.", metavar="NAME")
LanguageOption = typer.Option("en-GB", "--language", help="The language of it.", metavar="TAG")
TextsArgument = typer.Argument(..., help="The text, or several.", metavar="TEXT")
A = TypeVar("A")


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    app.add_typer(trying, name="try")


def _asked(name: str, role: Role, ask: Callable[[Engine], A], expected: Cost | None = None) -> A:
    """What an engine answers; what it charges goes into the ledger, and a budget holds here too."""
    asked = engine(name)
    check_role(asked.info(), role, name)
    with Ledger(title="zweistimme try").question(name, role, expected or Cost()) as charge:
        answer = ask(asked)
        charge(getattr(answer, "cost", Cost()))
    return answer


def _bytes_in(file: Path) -> str:
    try:
        return base64.b64encode(file.read_bytes()).decode()
    except OSError as error:
        raise CommandError("{file} cannot be read ({why}).", file=file, why=error) from None


def _kept(file: Path, data: bytes) -> None:
    file.write_bytes(data)
    out.print(f"{file}")


@trying.command()
def speak(
    text: str = typer.Argument(..., help="What is to be said.", metavar="TEXT"),
    target: Path = typer.Option(..., "--out", help="The WAV file to write.", metavar="FILE"),
    voice: str = typer.Option(..., help="Which voice, by its id.", metavar="ID"),
    language: str = LanguageOption,
    direction: str = typer.Option("", help="How it is to be spoken, such as whispering.", metavar="TEXT"),
    rate: float = typer.Option(1.0, min=0.25, max=4.0, help="How many times as fast as usual.", metavar="FACTOR"),
    pitch: float = typer.Option(1.0, min=0.25, max=4.0, help="How many times as high as usual.", metavar="FACTOR"),
    volume_db: float = typer.Option(0.0, "--volume", min=-40, max=20, help="How much louder.", metavar="DB"),
    seed: int = typer.Option(0, min=0, help="Another number gives another take.", metavar="NUMBER"),
    tier: str = typer.Option("", help="In which quality, if the voice has several.", metavar="NAME"),
    name: str = EngineOption,
) -> None:
    """Say something."""
    from zweistimme.media.encode import write_wav

    ssml = ssml_of(text, language)
    request = SpeechRequest(ssml, language, voice, direction, seed, rate, pitch, volume_db, tier=tier)
    info = engine(name).info()
    price = info.price_of_speech(voice, tier)
    spoken = _asked(name, Role.SPEAK, lambda asked: asked.speak(request), price.of(len(ssml)))
    write_wav(target, iter([spoken.samples[None, :]]), 1, len(spoken.samples))
    out.print(f"{target}: {tr('{seconds:.2f} s', seconds=len(spoken.samples) / RATE)}")


@trying.command()
def translate(
    texts: list[str] = TextsArgument,
    source: str = typer.Option(..., "--from", help="The language it is in.", metavar="TAG"),
    target: str = typer.Option(..., "--to", help="The language it is to be in.", metavar="TAG"),
    wordings: int = typer.Option(3, min=1, max=10, help="How many wordings of each.", metavar="NUMBER"),
    name: str = EngineOption,
    as_json: bool = JsonOption,
) -> None:
    """Translate something."""
    items = tuple(TranslationItem(str(k), text) for k, text in enumerate(texts, 1))
    request = TranslationRequest(source, target, items, wordings=wordings)
    expected = engine(name).info().price.of(sum(map(len, texts)))
    answer = _asked(name, Role.TRANSLATE, lambda asked: asked.translate(request), expected)
    if as_json:
        _say_json(answer)
        return
    for item in answer.items:
        out.print(" / ".join(item.texts))


@trying.command()
def recognise(
    source: Path = typer.Argument(..., help="A sound or video file.", metavar="FILE"),
    language: str = LanguageOption,
    name: str = EngineOption,
    as_json: bool = JsonOption,
) -> None:
    """Write down what is said in a file."""
    from zweistimme.media.probe import probe
    from zweistimme.media.sound_reader import SoundReader
    from zweistimme.media.working_copy import working_copy
    from zweistimme.project.programme import SoundPick

    with TemporaryDirectory() as place:
        file = Path(place) / "sound.wav"
        working_copy(probe(source), SoundPick(), file, lambda _share: None)
        with SoundReader(file) as reader:
            sound = SoundSource(reader.mono, reader.length)
            question = RecognitionQuestion((language,))
            expected = engine(name).info().price.of(seconds=reader.length / RATE)
            heard = _asked(
                name, Role.RECOGNISE, lambda asked: asked.recognise(sound, question, lambda _share: None), expected
            )
    if as_json:
        _say_json(heard)
        return
    for segment in heard.segments:
        said = " ".join(word.text for word in segment.words) or tr("(speech, not recognised)")
        out.print(f"{clock(segment.start_us):>9}  {segment.speaker}: {said}")


@trying.command()
def imitate(
    samples: list[Path] = typer.Argument(..., help="Clips of the person, WAV or FLAC, one channel.", metavar="FILE"),
    called: str = typer.Option(..., "--name", help="What the voice is to be called.", metavar="NAME"),
    language: list[str] = typer.Option(["en-GB"], "--language", help="What it is to speak.", metavar="TAG"),
    said: list[str] = typer.Option([], "--said", help="What is said in each clip, in their order.", metavar="TEXT"),
    consent_of: str = typer.Option(..., help="Whose voice it is.", metavar="PERSON"),
    consent: str = typer.Option(..., help="How that person allowed it, in their words.", metavar="TEXT"),
    name: str = EngineOption,
) -> None:
    """Make a voice from samples, with the consent of the person."""
    if len(said) not in (0, len(samples)):
        raise CommandError("Give --said once for each clip, or not at all.")
    texts = said or [""] * len(samples)
    request = ImitationRequest(
        called,
        tuple(language),
        tuple(VoiceSample(_bytes_in(file), text) for file, text in zip(samples, texts, strict=True)),
        Consent(consent_of, consent, date.today().isoformat()),
    )
    made = _asked(name, Role.IMITATE, lambda asked: asked_extra(asked, request, MadeVoice))
    about = tr(", {pitch_hz:.0f} Hz", pitch_hz=made.voice.pitch_hz) if made.voice.pitch_hz else ""
    out.print(f"{made.voice.id}: {made.voice.name} ({made.voice.kind}{about})")


@trying.command()
def describe(
    pictures: list[Path] = typer.Argument(..., help="Pictures, PNG or JPEG, in their order.", metavar="FILE"),
    language: str = LanguageOption,
    seconds: float = typer.Option(6.0, min=0.1, max=600, help="How long it may take to say.", metavar="SECONDS"),
    words: int = typer.Option(20, min=1, max=2_000, help="How many words it may have.", metavar="NUMBER"),
    instruction: str = typer.Option("", help="What is to be minded.", metavar="TEXT"),
    name: str = EngineOption,
    as_json: bool = JsonOption,
) -> None:
    """Say what pictures show."""
    step = round(seconds * SECOND_US / len(pictures))
    seen = tuple(SeenPicture(k * step, _bytes_in(file)) for k, file in enumerate(pictures))
    request = DescriptionRequest(language, seen, seconds, words, instruction)
    answer = _asked(name, Role.DESCRIBE, lambda asked: asked_extra(asked, request, Description))
    _say(answer, answer.texts, as_json=as_json)


@trying.command()
def draft(
    subject: str = typer.Argument("", help="What it is to be about.", metavar="[SUBJECT]"),
    material: Path | None = typer.Option(None, help="A text it is to be made of.", metavar="FILE"),
    people: list[str] = typer.Option(["A"], "--person", help="Who speaks; may be given several times.", metavar="NAME"),
    seconds: float = typer.Option(60.0, min=1, max=7_200, help="How long it is to be.", metavar="SECONDS"),
    language: str = LanguageOption,
    name: str = EngineOption,
    as_json: bool = JsonOption,
) -> None:
    """Write something to be spoken."""
    from zweistimme.formats.text import read_text

    text = read_text(material)[0] if material else ""
    request = DraftRequest(language, seconds, subject, text, tuple(people))
    answer = _asked(name, Role.DRAFT, lambda asked: asked_extra(asked, request, Draft))
    _say(answer, [f"{turn.person}: {turn.text}" for turn in answer.turns], as_json=as_json)


@trying.command()
def compose(
    sections: list[str] = typer.Argument(
        ..., help="SECONDS:MOOD, or SECONDS:MOOD:ENERGY with an energy from 0 to 1.", metavar="SECTION"
    ),
    target: Path = typer.Option(..., "--out", help="The FLAC file to write.", metavar="FILE"),
    seed: int = typer.Option(0, min=0, help="Another number gives another bed.", metavar="NUMBER"),
    name: str = EngineOption,
) -> None:
    """Make music and atmosphere by a plan."""
    request = BedRequest(tuple(map(_section, sections)), seed)
    answer = _asked(name, Role.COMPOSE, lambda asked: asked_extra(asked, request, Bed))
    _kept(target, base64.b64decode(answer.sound))


def _section(text: str) -> BedSection:
    section = section_of(text)
    if section is None:
        raise CommandError("“{text}” is no section. Write SECONDS:MOOD:ENERGY, such as 20:calm:0.4.", text=text)
    return section


@trying.command()
def sense(
    texts: list[str] = TextsArgument, language: str = LanguageOption, name: str = EngineOption,
    as_json: bool = JsonOption,
) -> None:  # fmt: skip
    """Tell the tone of texts."""
    request = ToneRequest(language, tuple(ToneItem(str(k), text) for k, text in enumerate(texts, 1)))
    answer = _asked(name, Role.SENSE, lambda asked: asked_extra(asked, request, Tones))
    rows = [f"{item.tone or tr('plain'):12} {item.strength:.1f}  {texts[int(item.id) - 1]}" for item in answer.items]
    _say(answer, rows, as_json=as_json)


def _say(answer: Any, rows: Any, *, as_json: bool) -> None:
    if as_json:
        _say_json(answer)
        return
    for row in rows:
        out.print(row)


def _say_json(answer: Any) -> None:
    typer.echo(json.dumps(asdict(answer), ensure_ascii=False, indent=1))
