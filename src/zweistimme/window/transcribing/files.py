"""Transcripts from files and into files, scripts aligned, speech found: everything that runs as a job."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from pathlib import Path
from typing import Final

from PyQt6.QtWidgets import QFileDialog, QMessageBox, QWidget

from zweistimme.formats import prose
from zweistimme.formats.transcripts import KINDS
from zweistimme.messages import msg_act, tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.project.findings import Finding, cause
from zweistimme.project.languages import own_name
from zweistimme.sentences import sentence_of
from zweistimme.stages.translate.exchange import PICTURED, written_exchange
from zweistimme.stages.work import Work, source_of
from zweistimme.window.bridge import Desk

_SENT: Final = (".xlf", ".docx", ".xlsx", ".csv")
SENDING: Final = msg_act("Write for others to look over")
_TIMED: Final = (*KINDS, ".txt", ".xml", ".tsv")


def _filter(words: str, kinds: Iterable[str]) -> str:
    """Files of some kinds, as a file dialog wants them."""
    return f"{words} ({' '.join(f'*{kind}' for kind in kinds)})"


class TranscriptFiles:
    """Asks which file, then runs the stage."""

    def __init__(self, desk: Desk, parent: QWidget) -> None:
        self._desk, self._parent = desk, parent

    def handlers(self) -> dict[str, Callable[[], None]]:
        """By the id of their action."""
        return {
            "find_speech": self.find_speech,
            "bring_transcript": self.ask_transcript,
            "align": self.ask_script,
            "write_transcript": self.ask_target,
            "realign": self.realign,
        }

    def find_speech(self) -> None:
        """Lay segments over all speech that has none."""
        from zweistimme.stages.transcribe import find_speech

        self._desk.jobs.start("Find speech", find_speech)

    def ask_transcript(self) -> None:
        title, kinds = tr("Bring in a transcript with times"), _filter(tr("Transcripts and captions"), _TIMED)
        name, _ = QFileDialog.getOpenFileName(self._parent, title, "", kinds)
        if name:
            self.bring_in(Path(name), self._turns_beside(Path(name)))

    def _turns_beside(self, file: Path) -> Path | None:
        """Who speaks when, which words with times do not say: the file of that name beside them, else one that is
        asked for."""
        if file.suffix.lower() != ".ctm":
            return None
        beside = file.with_suffix(".rttm")
        if beside.is_file():
            return beside
        title = tr("Who speaks when (RTTM); without such a file, everything is one person's")
        name, _ = QFileDialog.getOpenFileName(self._parent, title, str(file.parent), _filter("RTTM", (".rttm",)))
        return Path(name) if name else None

    def ask_translation(self) -> None:
        """Ask for a translation of the version on the desk."""
        title = tr("Bring in a translation: {version}", version=own_name(self._desk.tag))
        kinds = _filter(tr("Captions"), (".srt", ".vtt", ".ttml", ".xml"))
        name, _ = QFileDialog.getOpenFileName(self._parent, title, "", kinds)
        if name:
            self.bring_in_translation(Path(name))

    def ask_to_send(self) -> None:
        """Ask where the version on the desk is written for people who have no desk."""
        plain = {".xlf": "XLIFF 2.1", ".docx": tr("Word table"), ".xlsx": tr("Workbook"), ".csv": "CSV"}
        seen = tr("with pictures")
        kinds = [f"{words} (*{kind})" for kind, words in plain.items()]
        kinds += [f"{plain[kind]}, {seen} (*{kind})" for kind in PICTURED if self._has_picture]
        title = tr("Write for others to look over: {version}", version=own_name(self._desk.tag))
        name, kind = QFileDialog.getSaveFileName(self._parent, title, f"{self._desk.tag}{_SENT[0]}", ";;".join(kinds))
        if not name or self._desk.version is None:
            return
        path = Path(name)
        path = path if path.suffix else path.with_suffix(kind[kind.rindex("*") + 1 : -1])
        self.send(path, with_pictures=path.suffix in PICTURED and seen in kind)

    def send(self, path: Path, *, with_pictures: bool) -> None:
        """Write the version on the desk; with pictures, which takes a while, beside whatever else is done."""
        from zweistimme.media.atomic import written_bytes

        desk, project, tag = self._desk, self._desk.project, self._desk.tag
        if with_pictures:

            def stage(work: Work) -> None:
                programme = project.programme
                file = source_of(work, programme.sound) if programme is not None else None
                data = written_exchange(project, tag, path.suffix, with_pictures=True, file=file, report=work.report)
                written_bytes(path, data)
                work.say(Finding("file-written", {"file": str(path)}))

            desk.jobs.read(SENDING, stage)
            return
        try:
            written_bytes(path, written_exchange(project, tag, path.suffix))
        except (ZweistimmeError, OSError) as error:
            why = cause(error) if isinstance(error, OSError) else str(error)
            desk.notice("error", tr("{file} cannot be written: {why}.", file=path, why=why))
            return
        desk.notice("done", tr("{file} is written.", file=path))

    @property
    def _has_picture(self) -> bool:
        programme = self._desk.project.programme
        return programme is not None and programme.picture is not None

    def ask_what_came_back(self) -> Path | None:
        """Ask for a file that somebody looked over."""
        title = tr("Take back: {version}", version=own_name(self._desk.tag))
        kinds = _filter(tr("Files that were looked over"), (*_SENT, ".xliff"))
        name, _ = QFileDialog.getOpenFileName(self._parent, title, "", kinds)
        return Path(name) if name and self._desk.version is not None else None

    def ask_takes(self) -> None:
        """Ask for a folder with takes for the version on the desk."""
        title = tr("Folder with clips named by line number: {version}", version=own_name(self._desk.tag))
        name = QFileDialog.getExistingDirectory(self._parent, title)
        if name:
            self.bring_in_takes(Path(name))

    def ask_script(self) -> None:
        scripts = _filter(tr("Scripts"), prose.KINDS)
        name, _ = QFileDialog.getOpenFileName(self._parent, tr("Align a script without times"), "", scripts)
        if name:
            self.align(Path(name))

    def ask_target(self) -> None:
        kinds = ";;".join(f"{tr(words)} (*{kind})" for kind, words in KINDS.items())
        name, kind = QFileDialog.getSaveFileName(self._parent, tr("Write the transcript"), "transcript", kinds)
        if name:
            path = Path(name)
            self.write(path if path.suffix else path.with_suffix(kind[kind.rindex("*") + 1 : -1]))

    def bring_in(self, file: Path, turns: Path | None = None) -> None:
        """Replace the transcript by that of a file; *turns* says who speaks when, where that does not."""
        from zweistimme.formats.script import has_times
        from zweistimme.formats.transcripts import read_transcript
        from zweistimme.stages.files import context_of
        from zweistimme.stages.transcribe import transcript_from_file

        def stage(work: Work) -> None:
            if file.suffix.lower() == ".txt" and not has_times(file):
                work.say(Finding("no-times", {"file": file.name}))
            context = context_of(work.project, work.project.source_tag)
            transcript_from_file(work, read_transcript(file, turns, context=context), file)

        self._desk.jobs.start(f"Transcript from {file.name}", stage)

    def bring_in_translation(self, file: Path) -> None:
        """Take the lines of the version on the desk from captions in its language."""
        from zweistimme.formats.captions import read_captions
        from zweistimme.stages.files import context_of
        from zweistimme.stages.translate import translation_from_file

        tag = self._desk.tag

        def stage(work: Work) -> None:
            reading = read_captions(file, context_of(work.project, tag, translation=True))
            translation_from_file(work, tag, reading, file)

        self._desk.jobs.start(f"Translation {tag}", stage)

    def bring_in_takes(self, folder: Path) -> None:
        """Take clips that somebody has recorded elsewhere for the version on the desk."""
        from zweistimme.stages.voice import import_takes, unnumbered

        tag = self._desk.tag
        nameless = unnumbered(folder) if folder.is_dir() else []
        by_hearing = bool(nameless) and self._agreed_to_hear(len(nameless))
        self._desk.jobs.start(
            f"Import takes {tag}", lambda work: import_takes(work, tag, folder, by_hearing=by_hearing)
        )

    def _agreed_to_hear(self, count: int) -> bool:
        words = tr("{n:clip has|clips have} no number. Find the line by what is heard?", n=count)
        buttons = QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No
        answer = QMessageBox.question(self._parent, tr("Import takes"), words, buttons)
        return answer == QMessageBox.StandardButton.Yes

    def take_clips(self, segment_id: str, files: list[Path]) -> None:
        """Take files that were dropped on a line as takes of it."""
        from zweistimme.stages.voice import import_clips

        tag, line = self._desk.tag, self._desk.line(segment_id)
        if line is None:
            self._desk.notice("note", tr("This line has no wording yet, so it can have no take."))
            return
        self._desk.select(segment_id)
        self._desk.jobs.start(f"Import takes {tag}", lambda work: import_clips(work, tag, segment_id, files))

    def align(self, file: Path) -> None:
        """Replace the transcript by a script, each sentence where it is said."""
        from zweistimme.formats.prose import read_prose
        from zweistimme.stages.files import context_of
        from zweistimme.stages.transcribe import align_script

        def stage(work: Work) -> None:
            context = context_of(work.project, work.project.source_tag)
            align_script(work, read_prose(file, context), file)

        self._desk.jobs.start(f"Align {file.name}", stage)

    def realign(self) -> None:
        """Look for the times of the words of what is chosen in the sound."""
        from zweistimme.stages.transcribe import realign

        ids = self._desk.chosen_ids()
        if ids:
            self._desk.jobs.start("Find word times", lambda work: realign(work, ids))

    def write(self, target: Path) -> None:
        """Write the transcript to a file of the kind its name says."""
        from zweistimme.formats.transcripts import written_transcript
        from zweistimme.media.atomic import written_bytes

        try:
            data, notes = written_transcript(self._desk.project, target.suffix.lower())
            written_bytes(target, data)
        except ZweistimmeError as error:
            self._desk.notice("error", str(error))
        except OSError as error:
            self._desk.notice(
                "error",
                tr(
                    "{target} could not be written: {strerror}. Choose another place.",
                    target=target,
                    strerror=cause(error),
                ),
            )
        else:
            self._desk.notice("done", " ".join([tr("Written: {file}.", file=target), *map(sentence_of, notes)]))
