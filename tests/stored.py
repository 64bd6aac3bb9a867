"""Blocks in store, for tests that need some."""

from itertools import count

from aplomb.core.batch.keeping import KeptItem

_numbers = count()


def frozen_block(
    uid: str, blocks: int, each_g: float, turns: int = 0, made: str = "", where: str = "freezer"
) -> KeptItem:
    """Give blocks of a formula that lie in the freezer, or elsewhere."""
    key = f"stored-{next(_numbers)}"
    return KeptItem(key, uid, "whole", where, blocks, each_g, turns, made=made)
