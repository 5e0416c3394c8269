"""Formats as rows: what each keeps, and what the shot weighs in it."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter

from hasty_reel.desk import theme
from hasty_reel.desk.follow import follow
from hasty_reel.desk.rowtable import RowTable
from hasty_reel.pictures.outputs import PictureFormat
from hasty_reel.studio.output.outputs import OutputsModel


class FormatTable(RowTable):
    """Rows of formats; a click hands over in one."""

    def __init__(self, model: OutputsModel) -> None:
        heads = (("bits", 560), ("light", 470), ("layers", 390), ("lossless", 300), ("a frame", 170), ("this shot", 16))
        super().__init__("Formats", heads, self._paint_row, self._picked)
        self._model = model
        self.setToolTip(
            "Light: keeps what is brighter than display white. Layers: keeps guides beside the colour.\n"
            "Weights are measured on proof frames as noisy as the finished ones are planned. Click to choose."
        )
        follow(self, model.changed, self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the formats there are."""
        self.set_rows(len(self._model.forms), "")

    def _paint_row(self, painter: QPainter, k: int, box: QRectF) -> None:
        model, form = self._model, self._model.forms[k]
        here = form.key == model.how.form.key
        if here:
            painter.fillRect(box.adjusted(-8, 0, 8, 0), theme.RAISED)
        painter.setFont(theme.words(13, 700 if here else 500))
        painter.setPen(theme.INK)
        painter.drawText(box, Qt.AlignmentFlag.AlignVCenter, form.words)
        if isinstance(form, PictureFormat):
            bits, kept = form.bits, (form.light, form.layers, form.lossless())
        else:
            bits, kept = str(form.bits), (False, False, form.lossless)
        frame, shot = model.weight(form.key)
        painter.setPen(theme.INK if here else theme.INK2)
        self.paint_cells(painter, box, (bits, *("yes" if y else "–" for y in kept), frame, shot))

    def _picked(self, k: int) -> None:
        self._model.choose(self._model.forms[k].key)
