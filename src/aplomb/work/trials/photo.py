"""A photograph of a trial put into the book, and what was measured on it put with a piece."""

from msgspec import Struct
from msgspec.structs import replace

from aplomb.book.book import new_uid, now
from aplomb.book.pictures import PictureRow
from aplomb.core.base.errors import AplombError
from aplomb.core.trials.trial import MOST_PICTURES, Piece, Trial, check_trial
from aplomb.work.open_book.workbench import Workbench

LONGEST_PX, SMALL_PX = 3000, 360
"""A photograph is kept no longer than that, and looked at in lists so long [px]."""
MOST_MEGAPIXELS = 150.0
"""A picture of more is not opened [-]."""


class TakenIn(Struct, frozen=True):
    """A photograph made ready for the book, beside the window.

    Attributes
    ----------
    wide, high : int
        As it is kept [px].
    small, body, original : bytes
        As JPEG, and the file as it came (empty when it is not kept).
    """

    name: str
    wide: int
    high: int
    small: bytes
    body: bytes
    original: bytes


def put_picture(work: Workbench, trial: Trial, taken: TakenIn) -> str:
    """Keep a photograph with a trial.

    Its key.

    Raises
    ------
    AplombError
        When the trial has too many, the book can only be read, or the disk refuses.
    """
    if len(trial.pictures) >= MOST_PICTURES:
        raise AplombError(f"This trial has {MOST_PICTURES} photographs; remove one first.")
    key = new_uid()[:16]
    work.journal.flush()
    row = PictureRow(
        key, taken.name[:120], now(), taken.wide, taken.high, has_original=bool(taken.original)
    )
    work.book.pictures.keep(row, taken.small, taken.body, taken.original)
    made = replace(trial, pictures=(*trial.pictures, key))
    work.store.put_trials("photograph", [check_trial(made)])
    return key


def with_measured(trial: Trial, at: int, name: str, value: float) -> Trial:
    """Put something measured on a photograph with a piece.

    Parameters
    ----------
    at : int
        Place of the piece; one beyond the last is a new one [-].
    name : str
        A field of `Piece`.
    value : float
        In its unit.

    Raises
    ------
    FormulaError
        When it cannot be.
    """
    pieces = [*trial.pieces, *(Piece() for _ in range(at + 1 - len(trial.pieces)))]
    kept = round(value) if name == "leaves" else round(value, 2)
    pieces[at] = replace(pieces[at], **{name: kept})
    return check_trial(replace(trial, pieces=tuple(pieces)))
