"""The proof sheet: a card for each proof, newest first."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QEvent, QRectF, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QVBoxLayout, QWidget

from hasty_reel.desk import theme
from hasty_reel.desk.session import Session
from hasty_reel.desk.thumbs import Thumbnails
from hasty_reel.predict.evidence import ProofFrame
from hasty_reel.predict.proof import Proof
from hasty_reel.reel.frames import write_frames
from hasty_reel.reel.recipe import differences

THUMB_WIDTH, THUMB_HEIGHT = 96, 54


class ProofCard(QWidget):
    """One proof: thumbnail, frames, seconds, noise, and what changed."""

    clicked = Signal(str)

    def __init__(self, proof: Proof, rows: list[ProofFrame], changed: list[str], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.proof, self._rows, self._changed = proof, rows, changed
        self._image: QImage | None = None
        self.shown = False
        self.path = ""
        self.setFixedHeight(78)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"Proof {proof.id}")
        self.setToolTip(
            f"Proof {proof.id}, made {proof.made[:16].replace('T', ' ')}\n{proof.width}x{proof.height}, {proof.samples} samples\n"
            + ("\n".join(changed) if changed else "with the recipe as it is")
        )

    def set_image(self, image: QImage | None) -> None:
        """Show the thumbnail, once there is one."""
        self._image = image
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.clicked.emit(self.proof.id)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Space):
            self.clicked.emit(self.proof.id)
        else:
            super().keyPressEvent(event)

    def enterEvent(self, event) -> None:
        self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(self.rect(), theme.MAT if not self.underMouse() else theme.MAT.lighter(108))
        painter.setPen(theme.MAT_RULE)
        painter.drawLine(12, self.height() - 1, self.width() - 12, self.height() - 1)
        box = QRectF(12, 12, THUMB_WIDTH, THUMB_HEIGHT)
        if self._image is not None:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            scale = min(box.width() / self._image.width(), box.height() / self._image.height())
            w, h = self._image.width() * scale, self._image.height() * scale
            painter.drawImage(QRectF(box.center().x() - w / 2, box.center().y() - h / 2, w, h), self._image)
        else:
            painter.fillRect(box, theme.MAT_RULE)
        if self.shown:
            painter.setPen(QPen(theme.MAT_INK, 1.5))
            painter.drawRect(box.adjusted(-2, -2, 2, 2))
        x, width = 120.0, self.width() - 132.0
        painter.setFont(theme.words(13, 700))
        painter.setPen(theme.MAT_INK)
        painter.drawText(QRectF(x, 8, 44, 20), Qt.AlignmentFlag.AlignVCenter, self.proof.id)
        painter.setFont(theme.words(12))
        painter.setPen(theme.MAT_INK2)
        metrics = painter.fontMetrics()
        frames = write_frames(r.frame for r in self._rows) if self._rows else "no readable frame"
        if metrics.horizontalAdvance(frames) > width - 44:
            frames = f"{len(self._rows)} frames, {self._rows[0].frame}–{self._rows[-1].frame}"
        painter.drawText(QRectF(x + 40, 8, width - 40, 20), Qt.AlignmentFlag.AlignVCenter, frames)
        painter.setFont(theme.words(13))
        painter.setPen(theme.MAT_INK)
        painter.drawText(QRectF(x, 28, width, 20), Qt.AlignmentFlag.AlignVCenter, self._figures())
        painter.setFont(theme.words(12))
        painter.setPen(theme.MAT_INK2)
        words = ", ".join(self._changed) if self._changed else f"{self.proof.samples} samples, {self.proof.width}×{self.proof.height}"
        text = metrics.elidedText(words, Qt.TextElideMode.ElideRight, int(width))
        painter.drawText(QRectF(x, 48, width, 20), Qt.AlignmentFlag.AlignVCenter, text)
        if self.hasFocus():
            painter.setPen(QPen(theme.MAT_INK, 1.5))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(2, 2, -2, -3), 3, 3)

    def _figures(self) -> str:
        if not self._rows:
            return ""
        seconds = np.mean([r.seconds for r in self._rows])
        noise = [r.noise_linear for r in self._rows if np.isfinite(r.noise_linear)]
        text = f"{seconds:.2f} s a frame"
        return f"{text}, noise {np.mean(noise):.3f}" if noise else text


class ProofSheet(QWidget):
    """The cards of the shot's proofs."""

    chosen = Signal(str)

    def __init__(self, session: Session, thumbs: Thumbnails, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._thumbs = session, thumbs
        self.cards: list[ProofCard] = []
        thumbs.loaded.connect(self._thumb)
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 0, 0)
        self._column.setSpacing(0)
        self._column.addStretch(1)

    def paintEvent(self, event: QPaintEvent) -> None:
        QPainter(self).fillRect(self.rect(), theme.MAT)

    def set_shown(self, proof_id: str | None) -> None:
        """Mark the proof whose picture is shown."""
        for card in self.cards:
            card.shown = card.proof.id == proof_id
            card.update()

    def refresh(self) -> None:
        """Cards for the proofs there are; thumbnails come when they are loaded."""
        for card in self.cards:
            self._column.removeWidget(card)
            card.deleteLater()
        self.cards = []
        evidence = self._session.shot_evidence
        base = evidence.proofs[0].recipe if evidence.proofs else None
        for proof in reversed(evidence.proofs):
            rows = [r for r in evidence.frames if r.proof == proof.id]
            changed = differences(proof.recipe, base) if base is not None else []
            card = ProofCard(proof, rows, changed, self)
            card.clicked.connect(self.chosen)
            self._column.insertWidget(self._column.count() - 1, card)
            self.cards.append(card)
            if rows:
                card.path = str(rows[len(rows) // 2].picture)
                card.set_image(self._thumbs.image(card.path))

    def _thumb(self, path: str) -> None:
        for card in self.cards:
            if card.path == path:
                card.set_image(self._thumbs.image(path))
