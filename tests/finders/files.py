"""Damage files of others and take them in: each is read whole, or refused in words."""

import json
import random
import time
import traceback
from collections import Counter
from copy import deepcopy
from typing import Any

from aplomb.assets import shipped
from aplomb.core.base.errors import AplombError
from aplomb.core.paste.checking import check
from aplomb.core.paste.pantry import check_item
from aplomb.exchange.formula_json import from_json, to_json
from aplomb.exchange.pantry_csv import read_supplier_file, write_pantry

SOON_S = 2.0
"""A file is read in this much processor time, or it is a fault [s]."""
VALUES: tuple[Any, ...] = (
    None, True, 0, -1, 1e308, 10**400, -0.0, "", "x", "\ud83d", "a\nb", "\x00", "9" * 500,
    "=1+1", [], {}, [[]], {"a": 1}, "butter", "NaN", 1.5, 2**63,
)  # fmt: skip
CELLS = (
    "", "12.5", "12,5", "1 kg", "1 kg,12,50", "=SUM(A1)", "\n=1+1", "-", "1e9", "9" * 400, "n/a",
    '"', "'", "\ud83d".encode("utf-8", "surrogatepass").decode("latin-1"), "butter", "milk; egg",
    "2026-13-45", "x" * 3000, "3/4", "½", "-5", "0",
)  # fmt: skip


def places_in(value: Any, way: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Give the way to every value in a document."""
    found = [way] if way else []
    if isinstance(value, dict):
        for key, each in value.items():
            found += places_in(each, (*way, key))
    elif isinstance(value, list):
        for i, each in enumerate(value):
            found += places_in(each, (*way, i))
    return found


def spoil_document(document: Any, pick: random.Random) -> None:
    """Change, drop, double or rename something in a document."""
    way = pick.choice(places_in(document))
    holder = document
    for step in way[:-1]:
        holder = holder[step]
    last = way[-1]
    command = pick.random()
    if command < 0.6:
        holder[last] = deepcopy(pick.choice(VALUES))
    elif command < 0.75:
        del holder[last]
    elif isinstance(holder, list):
        holder.extend([holder[last]] * pick.choice((1, 30, 300)))
    else:
        holder[pick.choice(("more", "grams", "name", str(last) + "x"))] = deepcopy(
            pick.choice(VALUES)
        )


def any_json(pick: random.Random, documents: list[Any]) -> bytes:
    """Make a formula's file with something wrong in it."""
    document = json.loads(json.dumps(pick.choice(documents)))
    for _ in range(pick.choice((1, 1, 2, 4))):
        spoil_document(document, pick)
        if not places_in(document):
            break
    data = bytearray(
        json.dumps(document, ensure_ascii=pick.random() < 0.5).encode("utf-8", "surrogatepass")
    )
    if pick.random() < 0.25:
        for _ in range(pick.choice((1, 5))):
            data[pick.randrange(len(data))] = pick.randrange(256)
    if pick.random() < 0.1:
        del data[pick.randrange(len(data)) :]
    return bytes(data)


def any_csv(pick: random.Random, lines: list[str]) -> bytes:
    """Make a supplier's file with something wrong in it."""
    header, *rows = lines
    rows = pick.sample(rows, pick.choice((0, 1, 3, 8)))
    table = [line.split(",") for line in (header, *rows)]
    for _ in range(pick.choice((1, 2, 5))):
        row = pick.choice(table)
        command = pick.random()
        if command < 0.7:
            row[pick.randrange(len(row))] = pick.choice(CELLS)
        elif command < 0.85:
            row.insert(pick.randrange(len(row)), pick.choice(CELLS))
        elif len(row) > 1:
            del row[pick.randrange(len(row))]
    separator = pick.choice((",", ",", ";", "\t", "|"))
    text = pick.choice(("\n", "\r\n", "\r")).join(separator.join(row) for row in table)
    data = bytearray(
        text.encode(pick.choice(("utf-8", "utf-8-sig", "utf-16", "cp1252")), "replace")
    )
    if data and pick.random() < 0.25:
        for _ in range(pick.choice((1, 5))):
            data[pick.randrange(len(data))] = pick.randrange(256)
    if data and pick.random() < 0.1:
        del data[pick.randrange(len(data)) :]
    return bytes(data)


def find(kind: str, cases: int, start: int = 0) -> tuple[Counter[str], dict[str, int], int]:
    """Import so many files.

    Parameters
    ----------
    kind : {'json', 'csv'}
    cases, start : int

    Returns
    -------
    tuple of (faults with how often, the first case of each, files that were taken in)
    """
    pantry = shipped.reference().pantry
    documents = [json.loads(to_json(f, pantry)) for f in shipped.demo().formulas]
    lines = write_pantry(pantry).decode("utf-8-sig").splitlines()
    faults: Counter[str] = Counter()
    first: dict[str, int] = {}
    taken = 0
    for case in range(start, start + cases):
        pick = random.Random(case)
        data = any_json(pick, documents) if kind == "json" else any_csv(pick, lines)
        began, words = time.thread_time(), ""
        try:
            if kind == "json":
                found = from_json(data, pantry, "x.json")
                check(found.formula)
                to_json(found.formula, pantry)
                items = found.items
            else:
                sheet = read_supplier_file(data, pantry, "x.csv", "2026-11-26")
                items = tuple(row.item for row in sheet.rows)
                write_pantry(pantry.holding(items), [item.key for item in items])
                str(sheet.troubles).encode()
            for item in items:
                check_item(item)
            taken += 1
        except AplombError as error:
            text = str(error)
            sound = text.encode("utf-8", "replace").decode() == text
            if not text.startswith("x.") or len(text) > 4000 or not sound:
                words = f"says it badly: {text[:60]!r}"
        except Exception as error:  # noqa: BLE001  # this is what is looked for
            last = traceback.extract_tb(error.__traceback__)[-1]
            words = f"{type(error).__name__}: {str(error)[:70]!r} ({last.name}:{last.lineno})"
        if time.thread_time() - began > SOON_S:
            words = "takes long"
        if words:
            faults[words] += 1
            first.setdefault(words, case)
    return faults, first, taken
