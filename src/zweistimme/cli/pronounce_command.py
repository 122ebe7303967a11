"""``zweistimme pronounce``: how words of a language are said in a project, and in somebody's own lexicon."""

from __future__ import annotations

import json
from dataclasses import asdict, replace
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.app import CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project, say_note
from zweistimme.cli.options import JsonOption, ProjectArgument
from zweistimme.formats.pls import read_pls, written_pls
from zweistimme.media.atomic import written_bytes
from zweistimme.messages import msg_act, tr
from zweistimme.project.languages import language_name, language_tag, same_language, spoken_tag
from zweistimme.project.saying_edits import put_sayings, remove_sayings
from zweistimme.project.sayings import Saying, saying_key, sayings_in
from zweistimme.stages.voice.own_sayings import keep_own, own_sayings, usable_here
from zweistimme.store.document import Document
from zweistimme.store.read_only import project_in


def register(app: typer.Typer) -> None:
    """Add the command of this file."""
    app.command()(pronounce)


def pronounce(
    project: Path = ProjectArgument,
    to: str = typer.Option(..., "--to", help="The language, or the language of a region.", metavar="TAG"),
    ipa: list[str] = typer.Option([], "--ipa", help="Say a word as IPA says.", metavar="WORD=IPA"),
    like: list[str] = typer.Option([], "--like", help="Say a word like another spelling.", metavar="WORD=TEXT"),
    forget: list[str] = typer.Option([], "--forget", help="Read a word as it is written again.", metavar="WORD"),
    read: list[Path] = typer.Option([], "--read", help="Take in a lexicon (PLS 1.0).", metavar="FILE"),
    write: Path | None = typer.Option(None, "--write", help="Write a lexicon (PLS 1.0).", metavar="FILE"),
    own: bool = typer.Option(False, "--own", help="Keep what is given in your own lexicon, too, for other projects."),
    use_own: bool = typer.Option(False, "--use-own", help="Take over what your own lexicon says of words that occur."),
    as_json: bool = JsonOption,
) -> None:
    """Say how words are said, list that, and read or write it as a lexicon (PLS 1.0)."""
    tag = spoken_tag(language_tag(to))
    given = [Saying(word, tag, ipa=how) for word, how in map(partial(_pair, "--ipa"), ipa)]
    given += [Saying(word, tag, like=how) for word, how in map(partial(_pair, "--like"), like)]
    for file in read:
        found, odd = read_pls(file)
        for finding in odd:
            say_note(finding)
        other = next((one.language for one in found if not same_language(one.language, tag)), "")
        if other:
            raise CommandError(
                "{file} is a lexicon for {language}, not for {tag}.", file=file.name, language=other, tag=tag
            )
        given += [replace(one, language=tag) for one in found]
    if given or forget or use_own:
        with opened_project(project) as document:
            _change(document, tag, given, forget, use_own=use_own)
            state = document.project
    else:
        state = project_in(project)
    if own and given:
        keep_own(given, tag)
    here = sayings_in(state.sayings, tag)
    if write is not None:
        written_bytes(write, written_pls(here, tag))
    if as_json:
        typer.echo(json.dumps([asdict(one) for one in here], ensure_ascii=False, indent=1))
        return
    for one in here:
        how = f"/{one.ipa}/" if one.ipa else tr("like “{text}”", text=one.like)
        out.print(f"{one.word}  {how}  {one.language}")
    if not here:
        mine = len(own_sayings(tag))
        words = tr("Nothing is said of {language} here; your own lexicon has {n:word|words}.",
                   language=language_name(tag), n=mine)  # fmt: skip
        out.print(words)


def _change(document: Document, tag: str, given: list[Saying], forget: list[str], *, use_own: bool) -> None:
    if use_own:
        if tag not in document.project.versions:
            raise CommandError("There is no version {tag} in which words could occur.", tag=tag)
        given = [*(replace(one, language=tag) for one in usable_here(document.project, tag)), *given]
    keys = [saying_key(word, tag) for word in forget]
    for word, key in zip(forget, keys, strict=True):
        if key not in document.project.sayings:
            raise CommandError("Nothing is said of “{word}” in {tag}.", word=word, tag=tag)
    if keys:
        document.apply(msg_act("Read words as written"), partial(remove_sayings, keys=keys))
    if given:
        document.apply(msg_act("Say how words are said"), partial(put_sayings, sayings=given))


def _pair(option: str, value: str) -> tuple[str, str]:
    word, mark, how = value.partition("=")
    if not mark or not word.strip() or not how.strip():
        raise CommandError(
            "{option} wants WORD=HOW, such as Joe=Dscho; “{value}” is not that.", option=option, value=value
        )
    return word.strip(), how.strip()
