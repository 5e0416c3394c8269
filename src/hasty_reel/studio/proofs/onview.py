"""Which proof frame is looked at: of the proof that was picked; of the largest while nobody has moved; else the newest at the playhead."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from psygnal import Signal

from hasty_reel.evidence.rows import ProofFrame

if TYPE_CHECKING:
    from hasty_reel.studio.session import Session


class ProofOnView:
    """The proof frame on view; picked : id of the proof that was picked, '' for none. changed() : another one is.

    Parameters
    ----------
    session : the open reel
    """

    changed = Signal()

    def __init__(self, session: Session) -> None:
        self._session = session
        self.picked = ""
        self._stood: int | None = session.playhead.frame
        session.playhead.shot_changed.connect(self._other_shot)
        session.playhead.frame_changed.connect(self._moved)
        session.planner.evidence_changed.connect(self.changed)
        session.proofs.ended.connect(self._rendered)

    def _other_shot(self) -> None:
        self.picked = ""
        self._stood = self._session.playhead.frame
        self.changed.emit()

    def _moved(self, frame: int) -> None:
        if frame != self._stood:
            self._stood = None
        self.changed.emit()

    def _rendered(self) -> None:
        self._stood = None
        self.changed.emit()

    def pick(self, proof_id: str) -> None:
        """Look at a proof, or at none in particular where it is looked at already; the playhead goes to its nearest frame.

        Parameters
        ----------
        proof_id : of the proof
        """
        self.picked = "" if self.picked == proof_id else proof_id
        playhead = self._session.playhead
        rows = self._session.evidence.rows_of(proof_id)
        if self.picked and rows:
            playhead.show_frame(int(min(rows, key=lambda r: abs(r.frame - playhead.frame)).frame))
        self.changed.emit()

    @property
    def row(self) -> ProofFrame | None:
        """The proof frame on view; None where there is none."""
        session = self._session
        frame, evidence = session.playhead.frame, session.evidence
        rows = evidence.rows_of(self.picked) if self.picked else []
        if rows:
            return min(rows, key=lambda r: abs(r.frame - frame))
        shown = evidence.without(session.shot.put_away)
        # a shot that one comes to is shown by the best picture there is, whatever frame the playhead stands at
        return (shown.largest(frame) if self._stood is not None else None) or shown.newest(frame)

    @property
    def empty_words(self) -> str:
        """What stands where no picture is."""
        if not self._session.planner.evidence:
            return "Reading the proofs …"
        return "No proof of this shot yet. 'Prove it' renders what the plan needs most; or choose frames above and render one."

    @staticmethod
    def words(row: ProofFrame, playhead: int) -> tuple[str, str]:
        """Return what stands under the picture.

        Parameters
        ----------
        row : the proof frame
        playhead : frame that is looked at

        Returns
        -------
        left
            Which proof and frame
        right
            Its samples, seconds and noise
        """
        away = "" if row.frame == playhead else f"; the playhead is at {playhead}"
        noise = f"noise {row.noise_linear:.4f} ({row.noise_L:.1f} L*)" if np.isfinite(row.noise_linear) else "one seed, noise not measured"
        return f"Proof {row.proof}, frame {row.frame}{away}", f"{row.samples} samples, {row.seconds:.2f} s, {noise}"
