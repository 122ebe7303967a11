"""What a file holds and what of it is used: in a new project, and later."""

from zweistimme.window.intake.form import IntakeForm
from zweistimme.window.intake.programme import ProgrammeDialog

__all__ = ["IntakeForm", "ProgrammeDialog"]
