"""Budget: what is held, the answer as a sentence, and the plan over the frames that proves it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QVBoxLayout, QWidget

from hasty_reel.desk import marks, theme
from hasty_reel.desk.fields import PlainButton
from hasty_reel.desk.follow import follow, follow_shown
from hasty_reel.desk.menus import choice_menu
from hasty_reel.desk.stages.budget.bundles import BundleRow
from hasty_reel.desk.stages.budget.charts import NoiseChart, SamplesChart, SeenChart
from hasty_reel.desk.stages.budget.holdchoice import HoldChoice
from hasty_reel.desk.stages.budget.lightcache import LightCachePage
from hasty_reel.desk.stages.budget.motion import MotionPage
from hasty_reel.desk.stages.budget.savings import SavingsPage
from hasty_reel.desk.stages.budget.seeit import SeeItPage
from hasty_reel.desk.stages.budget.shottable import ReelPage, ShotsTable
from hasty_reel.desk.stages.budget.sizes import SizePage
from hasty_reel.desk.stages.budget.steps import StepRow
from hasty_reel.desk.stages.budget.stopmap import StopPage
from hasty_reel.desk.stages.budget.sure import SurePage
from hasty_reel.desk.tabs import LazyPage, TabbedPages
from hasty_reel.measure.viewing import calm_entries, calm_of
from hasty_reel.plan.answer import sentence
from hasty_reel.plan.shot import ShotPlan
from hasty_reel.reel.calm import VIEWINGS
from hasty_reel.reel.shot import Kind, Shot
from hasty_reel.studio.budget.hold import PROMISES, VARIANTS, HoldModel
from hasty_reel.studio.budget.motionsize import MotionSizeModel, stop_words
from hasty_reel.studio.session import Session


class BudgetStage(QWidget):
    """Solve bar, sentence, charts. compare_wanted : two things of it are to be seen side by side in Compare."""

    compare_wanted = Signal()

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._drawn: tuple[ShotPlan | None, ShotPlan | None, Shot] | None = None
        self._session, self._model = session, HoldModel(session)
        self.holds: dict[Kind, HoldChoice] = {}
        bar = QHBoxLayout()
        bar.setContentsMargins(16, 14, 16, 4)
        bar.setSpacing(14)
        head = QLabel("Hold")
        head.setFont(theme.words(14, 700))
        bar.addWidget(head, 0, Qt.AlignmentFlag.AlignTop)
        for kind, text, unit, tip in PROMISES:
            hold = HoldChoice(kind, text, unit, tip, partial(self.meant_menu, kind), self)
            hold.choice.clicked.connect(lambda _=False, k=kind: self._choose(k))
            hold.field.committed.connect(partial(self._model.type_value, kind))
            hold.weight.committed.connect(self._model.type_weight)
            self.holds[kind] = hold
            bar.addWidget(hold, 1)
        self._bar = bar
        self.verdict = Verdict(self)
        self.bundles = BundleRow(session, self)
        self.samples_chart = SamplesChart(session, self)
        self.noise_chart = NoiseChart(session, self)
        self.seen_chart = SeenChart(session, self)
        plan = QWidget(self)
        under = QVBoxLayout(plan)
        under.setContentsMargins(0, 0, 0, 0)
        under.setSpacing(0)
        under.addWidget(self.bundles)
        self.steps = StepRow(self.bundles.model, plan)
        under.addWidget(self.steps)
        under.addWidget(self.samples_chart, 3)
        under.addWidget(self.noise_chart, 3)
        under.addWidget(self.seen_chart, 3)
        self.stop = QLabel("", plan)
        self.stop.setFont(theme.words(13))
        self.stop.setContentsMargins(16, 2, 16, 0)
        under.addWidget(self.stop)
        self.bundles.pointed.connect(self._preview_bundle)
        self.shots = ShotsTable(session)
        self.reel_page = ReelPage(session, self.shots)
        model = MotionSizeModel(session)
        self._buys = LazyPage(lambda: SavingsPage(session, self.bundles.model))
        self._motion, self._sizes = LazyPage(lambda: MotionPage(session, model)), LazyPage(lambda: self._size_page(model))
        self._caches, self._stops = LazyPage(lambda: LightCachePage(session, model)), LazyPage(lambda: StopPage(session))
        pages = [
            ("This shot", plan),
            ("See it", LazyPage(self._see_it_page)),
            ("What buys time", self._buys),
            ("Motion blur", self._motion),
            ("Size", self._sizes),
            ("Light cache", self._caches),
            ("Stop at noise", self._stops),
            ("How sure", LazyPage(lambda: SurePage(session))),
            ("All shots", self.reel_page),
        ]
        self.pages = TabbedPages(pages, None, self)
        self.pages.show_page(0)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 8)
        column.setSpacing(0)
        column.addLayout(bar)
        answer = QHBoxLayout()
        answer.setContentsMargins(0, 0, 16, 0)
        answer.setSpacing(8)
        self.try_button = PlainButton("Try settings", session.begin_trial, parent=self)
        self.try_button.setToolTip("Change what you like without changing the reel: the plan as it stands stays in sight. Ctrl+T")
        answer.addWidget(self.verdict, 1)
        answer.addWidget(self.try_button)
        column.addLayout(answer)
        column.addWidget(self.pages, 1)
        playhead, planner = session.playhead, session.planner
        plans = (planner.plan_changed, planner.planning, session.reel_changed, session.trial.changed)
        follow_shown(self, (*plans, playhead.shot_changed, playhead.selection_changed), self.refresh)
        follow(self, session.playhead.frame_changed, self._frame)

    def _see_it_page(self) -> SeeItPage:
        page = SeeItPage(self._session)
        page.compare_wanted.connect(self.compare_wanted)
        return page

    def _size_page(self, model: MotionSizeModel) -> SizePage:
        page = SizePage(self._session, model)
        page.compare_wanted.connect(self.compare_wanted)
        return page

    @property
    def savings(self) -> SavingsPage:
        """What buys time."""
        return self._buys.page

    @property
    def motion(self) -> MotionPage:
        """Motion blur."""
        return self._motion.page

    @property
    def caches(self) -> LightCachePage:
        """Where light caches belong."""
        return self._caches.page

    @property
    def stops(self) -> StopPage:
        """Where frames stop at noise."""
        return self._stops.page

    @property
    def sizes(self) -> SizePage:
        """The sizes a shot can be rendered at."""
        return self._sizes.page

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.STAGE)

    def showEvent(self, event) -> None:
        super().showEvent(event)
        self.bundles.model.watch(True)

    def hideEvent(self, event) -> None:
        super().hideEvent(event)
        self.bundles.model.watch(False)

    def _frame(self, frame: int) -> None:
        self.samples_chart.set_frame(frame)
        self.noise_chart.set_frame(frame)
        self.seen_chart.set_frame(frame)

    def refresh(self) -> None:
        """Show what is held and the plan it leads to."""
        session, plan = self._session, self._session.plan
        stale = session.planner.stale
        self.try_button.setVisible(not session.trial.trying)
        for kind, row in self.holds.items():
            row.field.set_dim(stale)
            row.field.show_value(self._model.text(kind))
            row.caption.setText(self._model.caption(kind))
            row.meant.show_value(self._model.calm_text if kind == "clean" else self._model.variant(kind))
            row.show_chosen(kind == session.shot.hold.kind, kind == "total" and self._model.weighs)
            self._bar.setStretchFactor(row, 3 if kind == session.shot.hold.kind else 2)
            row.weight.show_value(self._model.weight_text)
        if plan is None:
            self.verdict.say(session.lack or "Reading the proofs …", "none", False)
        else:
            self.verdict.say(
                sentence(plan, session.reel.frame_speed, session.planner.outlook.deadline), "fine" if plan.budget.solved else "over", stale
            )
        self._show_charts(session.trial.stands)
        left = "" if plan is None or not plan.budget.solved else plan.budget.why
        self.stop.setText("  ·  ".join(words for words in (stop_words(plan), left and left[0].upper() + left[1:]) if words))
        self.stop.setVisible(bool(self.stop.text()))
        self.noise_chart.setVisible(session.shot.hold.kind != "clean")

    def _show_charts(self, ghost: ShotPlan | None) -> None:
        """Draw the plan, and another one dashed; what is drawn already stays: an edit comes before its plan."""
        plan = self._session.plan
        drawn = plan, ghost, self._session.shot
        if self._drawn is not None and all(new is old for new, old in zip(drawn, self._drawn, strict=True)):
            return
        self._drawn = drawn
        for chart in (self.samples_chart, self.seen_chart):
            chart.ghost = ghost
            chart.show_plan(plan)
        self.noise_chart.show_plan(plan)

    def _preview(self, plan: ShotPlan | None) -> None:
        self._show_charts(self._session.trial.stands if plan is None else plan)

    def _preview_bundle(self, k: int) -> None:
        bundles = self.bundles.bundles
        self._preview(bundles[k].plan if 0 <= k < len(bundles) and not self.bundles.model.taken(bundles[k]) else None)

    def meant_menu(self, kind: Kind) -> QMenu:
        """The ways in which a promise can be meant."""
        if kind == "clean":
            return self._calm_menu()
        field, values = VARIANTS[kind]
        return choice_menu(self, list(values), getattr(self._session.shot.hold, field), partial(self._model.vary, kind))

    def _calm_menu(self) -> QMenu:
        """Levels of calm, for which shots, and where the film is seen."""
        session, model = self._session, self._model
        menu = choice_menu(self, calm_entries(), calm_of(session.reel, session.shot), model.set_calm)
        menu.addSeparator()
        own = menu.addAction("For this shot alone")
        own.setCheckable(True)
        own.setChecked(session.shot.calm is not None)
        own.triggered.connect(model.keep_own)
        menu.addSeparator()
        tested = session.own.watchers.choice
        if tested is not None:
            menu.addAction(f"Seen as the eye test has it: {tested.name}").setEnabled(False)
        for viewing in VIEWINGS:
            entry = menu.addAction(f"Seen on a {viewing}" if viewing != "cinema" else "Seen in a cinema")
            entry.setCheckable(True)
            entry.setChecked(tested is None and viewing == session.reel.viewing)
            entry.setEnabled(tested is None)
            entry.triggered.connect(lambda _=False, v=viewing: model.set_viewing(v))
        return menu

    def _choose(self, kind: Kind) -> None:
        self._model.choose(kind)
        self.refresh()


class Verdict(QWidget):
    """The answer: a mark and a sentence with numbers in it."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._text, self._kind, self._dim = "", "none", False
        self.setFixedHeight(44)

    def say(self, text: str, kind: str, dim: bool) -> None:
        """Say it; 'fine', 'over' or 'none' chooses the mark."""
        self._text, self._kind, self._dim = text, kind, dim
        self.setAccessibleName(text)
        self.setToolTip(text)
        self.update()

    @property
    def text(self) -> str:
        """What it says."""
        return self._text

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        y = self.height() / 2
        if self._kind == "fine":
            marks.ring(painter, theme.PLOT_LEFT + 9, y, theme.LAGOON, "tick", 8.5)
        elif self._kind == "over":
            marks.diamond(painter, theme.PLOT_LEFT + 9, y, radius=8.5)
        painter.setPen(theme.OFF if self._dim else theme.INK)
        left = theme.PLOT_LEFT + (28 if self._kind != "none" else 0)
        box = QRectF(left, 0, self.width() - left - 16, self.height())
        size = 20
        while size > 13:
            painter.setFont(theme.words(size, 700))
            if painter.fontMetrics().horizontalAdvance(self._text) <= box.width():
                break
            size -= 1
        else:  # too long for one line at any size: two
            painter.setFont(theme.words(14, 700))
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter | Qt.TextFlag.TextWordWrap, self._text)
        painter.setPen(theme.NEUTRAL_RULE)
        painter.drawLine(0, self.height() - 1, self.width(), self.height() - 1)
