"""Every number of every value that is kept has bounds: by walking the types, not by a list."""

import copy
import math

import msgspec
import pytest
from msgspec import inspect

from aplomb.assets import shipped
from aplomb.core.base.errors import AplombError, FormulaError, Problems
from aplomb.core.base.house import House, check_house
from aplomb.core.base.sound import LARGEST, bound_of, check_numbers, numbers_in
from aplomb.core.batch.made_batch import MadeBatch, check_made_batch
from aplomb.core.batch.stock import Demand, Stock, check_demand, check_stock
from aplomb.core.bench import acts
from aplomb.core.bench.plan import RunPlan, check_plan
from aplomb.core.day.sheet import DaySheet, check_day_sheet
from aplomb.core.opinion.own_bands import OwnBands, check_own_bands
from aplomb.core.paste.checking import check
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.ingredient import Ingredient, check_material
from aplomb.core.paste.pantry import Item, check_item
from aplomb.core.trials.series import Series, check_series
from aplomb.core.trials.trial import Trial, check_trial
from aplomb.exchange.formula_json import from_json, to_json

ROOTS = [
    (Formula, check), (House, check_house), (Item, check_item), (Ingredient, check_material),
    (Trial, check_trial), (Series, check_series), (MadeBatch, check_made_batch),
    (Stock, check_stock), (Demand, check_demand), (DaySheet, check_day_sheet),
    (OwnBands, check_own_bands), (RunPlan, check_plan),
    *((kind, acts.check_act) for kind in acts.Plain.__args__),
]  # fmt: skip
WILD = (math.inf, -math.inf, math.nan, 1e300, -1e300)


def filled(kind, depth=0):
    """Make plain data of a type with something in every field, and one of every list."""
    match kind:
        case inspect.IntType():
            return 1
        case inspect.FloatType():
            return 1.0
        case inspect.BoolType():
            return False
        case inspect.StrType():
            return "x"
        case inspect.LiteralType(values=values):
            return values[0]
        case inspect.EnumType(cls=cls):
            return next(iter(cls)).value
        case inspect.StructType(fields=fields, tag_field=tag_field, tag=tag):
            made = {f.encode_name: filled(f.type, depth + 1) for f in fields}
            return made | ({tag_field: tag} if tag_field else {})
        case inspect.VarTupleType(item_type=item) | inspect.ListType(item_type=item):
            return [filled(item, depth + 1)]
        case inspect.SetType(item_type=item) | inspect.FrozenSetType(item_type=item):
            return [filled(item, depth + 1)]
        case inspect.TupleType(item_types=items):
            return [filled(item, depth + 1) for item in items]
        case inspect.DictType(key_type=key, value_type=value):
            return {filled(key): filled(value, depth + 1)}
        case inspect.UnionType(types=types):
            order = (inspect.StructType, inspect.FloatType, inspect.IntType)
            some = [t for t in types if not isinstance(t, inspect.NoneType)]
            best = next((t for o in order for t in some if isinstance(t, o)), some[0])
            return filled(best, depth + 1)
    raise AssertionError(f"no value is known for {kind}")


def slots(data, kind, path=()):
    """Give the path of every number that a type has, in data of it."""
    match kind:
        case inspect.IntType() | inspect.FloatType():
            yield path
        case inspect.StructType(fields=fields):
            for f in fields:
                yield from slots(data[f.encode_name], f.type, (*path, f.encode_name))
        case inspect.VarTupleType(item_type=item) | inspect.ListType(item_type=item):
            yield from slots(data[0], item, (*path, 0))
        case inspect.TupleType(item_types=items):
            for i, item in enumerate(items):
                yield from slots(data[i], item, (*path, i))
        case inspect.DictType(value_type=value):
            for key in data:
                yield from slots(data[key], value, (*path, key))
        case inspect.UnionType(types=types):
            for each in types:
                number = isinstance(each, inspect.FloatType | inspect.IntType)
                if number and isinstance(data, int | float) and not isinstance(data, bool):
                    yield path
                    return
                struct = isinstance(each, inspect.StructType) and isinstance(data, dict)
                listed = isinstance(each, inspect.VarTupleType | inspect.TupleType)
                if struct or (listed and isinstance(data, list)):
                    yield from slots(data, each, path)
                    return


def with_at(data, path, value):
    made = copy.deepcopy(data)
    inner = made
    for step in path[:-1]:
        inner = inner[step]
    inner[path[-1]] = value
    return made


@pytest.mark.parametrize(("kind", "check_it"), ROOTS, ids=lambda x: getattr(x, "__name__", ""))
def test_no_number_of_any_kind_of_value_may_be_wild(kind, check_it):
    about = inspect.type_info(kind)
    data = filled(about)
    for path in slots(data, about):
        field = next(step for step in reversed(path) if isinstance(step, str))
        for wild in WILD:
            try:
                value = msgspec.convert(with_at(data, path, wild), kind, strict=False)
            except msgspec.ValidationError:
                continue  # its type takes none such: a whole number that is none
            with pytest.raises(AplombError) as caught:
                check_it(value)
            told = getattr(caught.value, "problems", (str(caught.value),))
            assert any(field in words and "cannot be used" in words for words in told), (path, told)


def test_the_walk_finds_every_number_and_knows_its_unit():
    formula = shipped.demo().formulas[0]
    found = {place: (name, value) for place, name, value in numbers_in(formula)}
    assert found["products 1, length_mm"][0] == "length_mm"
    assert found["sheet_mm"] == ("sheet_mm", formula.sheet_mm)
    assert len(found) > 90
    assert (bound_of("sheet_mm"), bound_of("thing_w_m2_k"), bound_of("lean")) == (1e5, 1e6, LARGEST)
    wrong = Problems()
    check_numbers(formula, wrong)
    assert wrong.told == []


@pytest.mark.parametrize("number", ["1e999", "-1e999", "1e300", "1" + "0" * 400])
def test_a_file_with_an_endless_number_in_a_product_is_refused(number):
    """inner_mm of a plain piece means nothing, and once made the formula unreadable in the book."""
    pantry = shipped.reference().pantry
    text = to_json(shipped.demo().formulas[0]).decode()
    assert '"inner_mm": ' in text
    head, _, tail = text.partition('"inner_mm": ')
    broken = head + f'"inner_mm": {number}' + tail[tail.index(",") :]
    with pytest.raises(AplombError):
        from_json(broken.encode(), pantry)


def test_what_is_wrong_is_told_once():
    with pytest.raises(FormulaError) as caught:
        check(Formula("x", sheet_mm=math.inf))
    assert len([p for p in caught.value.problems if "sheet_mm" in p]) == 1
