"""Every code that the machine can say has its sentence, with places for just the figures it comes with."""

import ast
import string
from pathlib import Path

import zweistimme
from zweistimme.project.findings import AS_WRITTEN, Finding
from zweistimme.sentences import sentence_of, sentences_of
from zweistimme.sentences.catalogue import CATALOGUE

SOURCE = Path(zweistimme.__file__).parent


def made_findings():
    """(file, line, code, names of figures or None where they are not written there) of each Finding in the source."""
    for file in SOURCE.rglob("*.py"):
        for node in ast.walk(ast.parse(file.read_text())):
            named = isinstance(node, ast.Call) and getattr(node.func, "id", "") == "Finding" and node.args
            if not named:
                continue
            code = node.args[0]
            if isinstance(code, ast.Name) or any(isinstance(one, ast.JoinedStr) for one in ast.walk(code)):
                continue  # put together: tested below
            codes = [one.value for one in ast.walk(code) if isinstance(one, ast.Constant)]
            figures = node.args[1] if len(node.args) > 1 else ast.Dict([], [])
            names = None
            if isinstance(figures, ast.Dict) and None not in figures.keys:
                names = {key.value for key in figures.keys}
            for said in codes:
                if isinstance(said, str):
                    yield f"{file.name}:{node.lineno}", said, names


def places_of(template):
    return {name for _, name, _, _ in string.Formatter().parse(template) if name}


def test_every_code_in_the_source_has_a_sentence_with_its_figures():
    found = list(made_findings())
    assert len(found) > 80
    for where, code, names in found:
        assert code in CATALOGUE, (where, code)
        if names is not None:
            assert places_of(CATALOGUE[code]) <= names, (where, code)


def test_what_is_put_together_has_its_sentences_too():
    for kind in ("tags", "places", "style", "region", "note"):
        assert sentence_of(Finding(f"{kind}-left-out", {"count": 3})).endswith("left out.")
    for kind in ("hole", "overlap", "jump", "drift"):
        figures = {"places": 2, "total_s": 1.5, "shown": "0:03 (0.030 s)"}
        assert "at 0:03" in sentence_of(Finding(f"sound-{kind}", figures))
        assert "1.50 s in all" in sentence_of(Finding(f"sound-{kind}s", figures))


def test_sentences_count_begin_with_a_capital_and_end():
    assert (
        sentence_of(Finding("other-recording", {"words": 1, "name": "b"}))
        == "1 word of another recording, “b”, left out."
    )
    assert sentence_of(Finding("other-recording", {"words": 2_000, "name": "b"})).startswith("2,000 words of")
    assert sentence_of(Finding("bed-length", {"bed_us": 61_000_000, "programme_us": 5_000_000})).startswith(
        "The bed lasts 1:01"
    )
    assert "German" in sentence_of(Finding("other-language-heard", {"heard": "de-DE", "share": 0.9, "said": "en-GB"}))
    assert (
        sentences_of([Finding(AS_WRITTEN, {"text": "So."}), Finding("from-the-future", {"n": 2})])
        == "So. from-the-future n=2."
    )
