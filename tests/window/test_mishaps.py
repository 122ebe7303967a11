"""What nobody foresaw is said in a sentence, and the window stays."""

from __future__ import annotations

import subprocess
import sys
import textwrap
from pathlib import Path

from zweistimme.project.errors import EditError
from zweistimme.window.mishaps import catcher, report_file


def said_of(error: BaseException) -> list[str]:
    said: list[str] = []
    try:
        raise error
    except Exception as caught:
        catcher(said.append)(type(caught), caught, caught.__traceback__)
    return said


def test_an_error_with_a_sentence_is_said_as_it_is() -> None:
    assert said_of(EditError("A speaker needs a name.")) == ["A speaker needs a name."]
    assert not report_file().exists()


def test_a_defect_is_said_and_its_place_kept() -> None:
    (sentence,) = said_of(KeyError("s0007"))
    assert sentence.startswith("A defect in Zweistimme: KeyError: 's0007'.")
    assert str(report_file()) in sentence
    assert "said_of" in report_file().read_text()


def test_a_report_that_cannot_be_written_hides_nothing(tmp_path: Path) -> None:
    report_file().parent.parent.mkdir(parents=True, exist_ok=True)
    report_file().parent.write_text("a file where the folder would be")
    assert said_of(ValueError("odd")) == ["A defect in Zweistimme: ValueError: odd. What you did before it is saved."]


def test_the_window_stays_after_a_defect() -> None:
    program = """
        from PyQt6.QtCore import QTimer
        from zweistimme.window.app import make_app
        from zweistimme.window.main_window import MainWindow
        from zweistimme.window.mishaps import catch

        app = make_app()
        window = MainWindow()
        catch(window.say_error)
        window.show()
        QTimer.singleShot(0, lambda: 1 / 0)
        QTimer.singleShot(300, lambda: (print(window.welcome.words.text()), app.quit()))
        app.exec()
        print("still here")
    """
    done = subprocess.run(
        [sys.executable, "-c", textwrap.dedent(program)], capture_output=True, text=True, timeout=120, check=False
    )
    assert done.returncode == 0, done.stderr
    assert "ZeroDivisionError" in done.stdout
    assert "still here" in done.stdout


def test_a_defect_on_a_worker_is_said_in_the_window_and_the_worker_goes_on() -> None:
    program = """
        import threading
        from PyQt6.QtCore import QTimer
        from zweistimme.window.app import make_app
        from zweistimme.window.background import Latest
        from zweistimme.window.main_window import MainWindow
        from zweistimme.window.mishaps import catch

        app = make_app()
        window = MainWindow()
        said_on = []
        say = window.say_error
        window.say_error = lambda words: (said_on.append(threading.current_thread().name), say(words))
        catch(window.say_error)
        work, got = Latest("eyes"), []
        work.ready.connect(got.append)
        work.want(lambda: 1 / 0)
        QTimer.singleShot(200, lambda: work.want(lambda: "the next"))
        QTimer.singleShot(600, lambda: (print(window.welcome.words.text(), got, said_on), app.quit()))
        app.exec()
        work.close()
    """
    done = subprocess.run(
        [sys.executable, "-c", textwrap.dedent(program)], capture_output=True, text=True, timeout=120, check=False
    )
    assert done.returncode == 0, done.stderr
    assert "ZeroDivisionError" in done.stdout
    assert "['the next'] ['MainThread']" in done.stdout
