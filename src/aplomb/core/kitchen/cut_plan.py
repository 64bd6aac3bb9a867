"""A formula's cut plan for other numbers of blocks, and a batch that keeps its sheet."""

from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.house import House
from aplomb.core.batch.cut_search import NOT_ORDERED, sheets_for
from aplomb.core.batch.sheets import Sheets
from aplomb.core.batch.trays import OnTrays, batch_trays
from aplomb.core.paste.formula import Formula
from aplomb.core.study.study import Study, cut_case


def sheets_of(study: Study, house: House, blocks: int = 0) -> Sheets:
    """Give the cut plan of a study, or one of another number of blocks.

    Parameters
    ----------
    blocks : int
        Blocks of paste [-]; 0 for the plan that the batch is made by.

    Raises
    ------
    AplombError
        When nothing is wanted, or it cannot be cut here.
    """
    if not blocks:
        if study.cut is None:
            raise AplombError(study.cut_trouble or NOT_ORDERED)
        return study.cut
    found = sheets_for(cut_case(study, house), blocks)
    assert found is not None
    return found


def taken(formula: Formula, sheets: Sheets) -> Formula:
    """Give the formula with the sheet of its cut plan kept: later numbers are cut from the same.

    Parameters
    ----------
    sheets : Sheets
        Its own, of a single thickness; of several each goes on finding its own.
    """
    if len(sheets.plans) != 1 or sheets.plans[0].untrimmed:
        return formula
    plan = sheets.plans[0]
    cutting = replace(
        formula.cutting,
        length_mm=plan.sheet.length_mm,
        width_mm=plan.sheet.width_mm,
        rows=plan.layout.rows,
        sheets_a_block=plan.sheets // plan.blocks,
    )
    return replace(formula, cutting=cutting)


def trays_of(study: Study, house: House) -> tuple[OnTrays, ...]:
    """Put what a batch gives on trays."""
    return batch_trays(study.formula, study.scaled, house)
