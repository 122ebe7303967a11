"""``zweistimme terms`` and ``brief``: what whoever translates has to know, beside the words."""

from __future__ import annotations

import json
from dataclasses import asdict, replace
from functools import partial
from pathlib import Path

import typer

from zweistimme.cli.app import App, CommandError
from zweistimme.cli.console import out
from zweistimme.cli.desk import opened_project, say_note
from zweistimme.cli.options import JsonOption, ProjectArgument
from zweistimme.media.atomic import written_bytes
from zweistimme.messages import tr
from zweistimme.project.languages import language_tag
from zweistimme.project.model import Project
from zweistimme.project.term_edits import cleaned, key_for, merged, put_term, put_terms, remove_terms, with_terms_of
from zweistimme.project.terms import PartOfSpeech, Rendering, Term
from zweistimme.project.writing import one_line
from zweistimme.store.read_only import project_in

_WordsOption = typer.Option([], "--in", help="What it is there, the first to be used: de-DE=Feuer.", metavar="TAG=WORD")
_NotOption = typer.Option([], "--not", help="A word not to be used for it there; may be repeated.", metavar="TAG=WORD")
_SaidOption = typer.Option([], "--said", help="How its rendering is said there, in IPA.", metavar="TAG=IPA")


def register(app: typer.Typer) -> None:
    """Add the commands of this file."""
    about = "The names and terms of a project: say what they are elsewhere, find and exchange them."
    terms = App(name="terms", help=about)
    for name, command in (
        ("list", show), ("set", put), ("remove", remove), ("import", bring_in), ("export", write), ("propose", propose),
    ):  # fmt: skip
        terms.command(name)(command)
    app.add_typer(terms, name="terms")


def show(project: Path = ProjectArgument, as_json: bool = JsonOption) -> None:
    """List them, with what they are in other languages."""
    state = project_in(project)
    if as_json:
        rows = [{"id": key, **asdict(term)} for key, term in state.terms.items()]
        typer.echo(json.dumps(rows, ensure_ascii=False, indent=1))
        return
    for term in state.terms.values():
        _print(term)
    if not state.terms:
        out.print(tr("There are none yet. “propose” finds some in what is said."))


def _print(term: Term) -> None:
    kept = tr("stays as it is") if term.kept else ""
    said = f"/{term.pronunciation}/" if term.pronunciation else ""
    out.print("  ".join(filter(None, (term.source, said, kept, term.part.value, term.note))))
    for tag, one in sorted(term.renderings.items()):
        words = " | ".join(filter(None, (one.text, *one.also)))
        unused = tr("not: {words}", words=" | ".join(one.forbidden)) if one.forbidden else ""
        said = f"/{one.pronunciation}/" if one.pronunciation else ""
        out.print("  ".join(filter(None, (f"    {tag}", words, said, unused))))


def put(
    project: Path = ProjectArgument,
    term: str = typer.Argument(..., help="The name or term as it is said in the original.", metavar="TERM"),
    words: list[str] = _WordsOption,
    unused: list[str] = _NotOption,
    said: list[str] = _SaidOption,
    note: str = typer.Option("", help="What it means; for people and engines.", metavar="TEXT"),
    part: PartOfSpeech = typer.Option(PartOfSpeech.UNKNOWN, help="What kind of word; a name is a properNoun."),
    keep: bool | None = typer.Option(None, "--keep/--no-keep", help="It stays as it is where nothing else is said."),
    pronunciation: str = typer.Option("", help="How it is said in the original, in IPA.", metavar="IPA"),
) -> None:
    """Add one, or say more of one that is there."""
    with opened_project(project) as document:
        key = _key_of(document.project, term) or key_for(document.project, one_line(term))
        known = document.project.terms.get(key, Term(term))
        renderings = dict(known.renderings)
        for tag, texts in _by_tag(_pairs(words, "--in")).items():
            renderings[tag] = replace(renderings.get(tag, Rendering()), text=texts[0], also=tuple(texts[1:]))
        for tag, text in _pairs(unused, "--not"):
            one = renderings.get(tag, Rendering())
            renderings[tag] = replace(one, forbidden=(*one.forbidden, text))
        for tag, text in _pairs(said, "--said"):
            renderings[tag] = replace(renderings.get(tag, Rendering()), pronunciation=text)
        changed = replace(
            known,
            renderings=renderings,
            note=note or known.note,
            part=part or known.part,
            kept=known.kept if keep is None else keep,
            pronunciation=pronunciation or known.pronunciation,
        )
        document.apply("Change a term", partial(put_term, key=key, term=changed))
        _print(cleaned(changed))


def _pairs(values: list[str], option: str) -> list[tuple[str, str]]:
    found = []
    for value in values:
        tag, mark, text = value.partition("=")
        if not mark or not text.strip():
            raise CommandError(
                "{option} is given as TAG=WORD, such as de-DE=Feuer; not “{value}”.", option=option, value=value
            )
        found.append((language_tag(tag.strip()), one_line(text)))
    return found


def _by_tag(pairs: list[tuple[str, str]]) -> dict[str, list[str]]:
    by_tag: dict[str, list[str]] = {}
    for tag, text in pairs:
        by_tag.setdefault(tag, []).append(text)
    return by_tag


def _key_of(project: Project, source: str) -> str | None:
    wanted = one_line(source).casefold()
    return next((key for key, term in project.terms.items() if term.source.casefold() == wanted), None)


def remove(
    project: Path = ProjectArgument,
    terms: list[str] = typer.Argument(..., help="Names or terms as they are said in the original.", metavar="TERM …"),
) -> None:
    """Take some away."""
    with opened_project(project) as document:
        keys = []
        for term in terms:
            key = _key_of(document.project, term)
            if key is None:
                raise CommandError("There is no term “{term}”. “list” shows them.", term=term)
            keys.append(key)
        document.apply("Remove terms", partial(remove_terms, keys=keys))


def bring_in(
    project: Path = ProjectArgument,
    files: list[Path] = typer.Argument(..., help="TBX or CSV files.", exists=True, dir_okay=False, metavar="FILE …"),
) -> None:
    """Take in terms from files; what is here already stays, and is added to."""
    from zweistimme.stages.translate.term_files import read_terms

    with opened_project(project) as document:
        for file in files:
            terms, odd = read_terms(file, document.project.source_tag)
            for finding in odd:
                say_note(finding)
            _, new, more = merged(document.project, terms)
            count = {"file": file.name, "n": len(terms), "new": new, "more": more}
            document.apply("Take in terms", partial(with_terms_of, terms=terms))
            words = tr("{file}: {n:term|terms}, {new:,} of them new, {more:,} added to.", **count)
            out.print(words)


def write(
    project: Path = ProjectArgument,
    file: Path = typer.Argument(..., help="The file to write: .tbx or .csv.", dir_okay=False, metavar="FILE"),
) -> None:
    """Write them as TBX-Basic or CSV."""
    from zweistimme.stages.translate.term_files import written_terms

    state = project_in(project)
    written_bytes(file, written_terms(state, file.suffix))
    out.print(tr("{file}: {n:term|terms}.", file=file, n=len(state.terms)))


def propose(
    project: Path = ProjectArgument,
    add: bool = typer.Option(False, "--add", help="Keep them: names stay as they are until something else is said."),
    most: int = typer.Option(50, min=1, max=1_000, help="How many at most.", metavar="N"),
    as_json: bool = JsonOption,
) -> None:
    """Find names and frequent phrases in what is said."""
    from zweistimme.stages.translate.term_proposals import proposals

    found = proposals(project_in(project), most)
    if add and found:
        with opened_project(project) as document:
            new = {
                key_for(document.project, one.text): Term(one.text, part=one.part, kept=one.part is PartOfSpeech.NAME)
                for one in found
            }
            document.apply("Take in terms", partial(put_terms, terms=new))
    if as_json:
        typer.echo(json.dumps([asdict(one) for one in found], ensure_ascii=False, indent=1))
        return
    for one in found:
        out.print(f"{one.count:6}  {one.text}  {one.part.value}")
    if not found:
        out.print(tr("Nothing is said often enough, and no name is new."))
