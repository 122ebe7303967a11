"""What an engine has charged, and what may be spent on it."""

from __future__ import annotations

from PyQt6.QtWidgets import QComboBox, QDoubleSpinBox, QHBoxLayout, QLabel, QPushButton, QWidget

from zweistimme.engines.ledger import Budget, Ledger, Period
from zweistimme.engines.offers import FREE
from zweistimme.engines.registry import Examined
from zweistimme.messages import msg, number, tr
from zweistimme.project.errors import ZweistimmeError
from zweistimme.window.bridge import Desk
from zweistimme.window.theme import SMALL_PT, font

_PERIODS = {Period.DAY: msg("a day"), Period.MONTH: msg("a month"), Period.EVER: msg("in all")}


class Spending(QWidget):
    """The account of one engine; hidden for those that cost nothing."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._desk, self._engine, self._currency = desk, "", ""
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 6, 0, 0)
        self.spent = QLabel()
        self.spent.setFont(font(SMALL_PT + 0.5))
        self.amount = QDoubleSpinBox()
        self.amount.setRange(0.0, 1_000_000.0)
        self.amount.setSpecialValueText(tr("no budget"))
        self.amount.setAccessibleName(tr("Budget"))
        self.amount.setToolTip(tr("What may be spent on this engine; a run that would spend more stops and says so"))
        self.period = QComboBox()
        self.period.setAccessibleName(tr("For how long the budget is"))
        for period, words in _PERIODS.items():
            self.period.addItem(tr(words), period)
        self.amount.setMinimumHeight(self.period.sizeHint().height())
        self.keep = QPushButton(tr("Set"))
        self.keep.setToolTip(tr("Keep this budget"))
        self.keep.clicked.connect(self._keep)
        row.addWidget(self.spent, 1)
        for widget in (QLabel(tr("Budget")), self.amount, self.period, self.keep):
            row.addWidget(widget)

    def show_engine(self, found: Examined | None) -> None:
        """Show how it stands with an engine."""
        priced = found is not None and found.info is not None and found.info.price != FREE
        self.setVisible(priced)
        if not priced or found is None or found.info is None:
            return
        self._engine, self._currency = found.connection.name, found.info.price.currency
        ledger = Ledger()
        try:
            budget = ledger.budget(self._engine)
            sums = [ledger.spent(self._engine, period, self._currency) for period in _PERIODS]
        except ZweistimmeError as error:
            self.spent.setText(str(error))
            return
        today, month, ever = (number(amount, ",.2f") for amount in sums)
        self.spent.setText(
            tr(
                "Charged to this desk: {today} {currency} today, {month} this month, {ever} in all",
                today=today,
                currency=self._currency,
                month=month,
                ever=ever,
            )
        )
        self.amount.setSuffix(f" {self._currency}")
        self.amount.setValue(budget.amount if budget else 0.0)
        self.period.setCurrentIndex(self.period.findData(budget.period if budget else Period.MONTH))

    def _keep(self) -> None:
        ledger, amount, period = Ledger(), self.amount.value(), self.period.currentData()
        try:
            if amount:
                ledger.set_budget(Budget(self._engine, amount, self._currency, period))
            else:
                ledger.remove_budget(self._engine)
        except ZweistimmeError as error:
            self._desk.notice("error", str(error))
            return
        said = (
            tr("{amount:,.2f} {currency} {period}", amount=amount, currency=self._currency, period=tr(_PERIODS[period]))
            if amount
            else tr("what is asked for")
        )
        self._desk.notice("done", tr("{engine} may spend {said}.", engine=self._engine, said=said))
