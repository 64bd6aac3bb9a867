"""The steps of a day as books up to version 8 named them, in the words then shown.

Frozen: what a step is called now, and by what it is known, is said in `kitchen.step_words`.
"""

import re

_KEYS = {
    "materials into the cold": "cool.1",
    "weigh": "weigh.1",
    "mix": "mix.1",
    "press the fat": "press.1",
    "cut the fat into pieces": "pieces.1",
    "cook the filling": "filling.1",
    "take out to thaw": "thaw.1",
    "enclose": "enclose.1",
    "gather": "gather.1",
    "final sheet": "sheet.1",
    "cut": "cut.1",
    "cut and shape": "shape.1",
    "fill and shape": "fill.1",
    "baked pieces onto trays": "trays.1",
    "baked pieces out of the freezer, onto trays": "trays.1",
    "heat the oven": "heat.1",
    "oven: load 1 in": "load.1",
    "bake": "bake.1",
    "refresh": "refresh.1",
    "out of the oven": "out.1",
    "pack": "pack.1",
}
_PATTERNS = (
    (re.compile(r"turn (\d+): .+"), r"turn.\1"),
    (re.compile(r"trim after turn (\d+)"), r"trim.\1"),
    (re.compile(r"trim after turn (\d+), again"), r"trim.\1.2"),
    (re.compile(r"raw pieces out of the .+, onto trays"), "trays.1"),
    (re.compile(r"load \d+ out, load (\d+) in"), r"load.\1"),
    (re.compile(r"(bake|refresh) load (\d+)"), r"\1.\2"),
    (re.compile(r"load \d+ out"), "out.1"),
)
_AGAIN = re.compile(r"trim after turn (\d+), again (\d+)")


def key_of_name(name: str) -> str:
    """Give the key of a step by its old name; a name that never was comes back as it is.

    Examples
    --------
    >>> key_of_name("turn 3: single"), key_of_name("load 2 out, load 3 in")
    ('turn.3', 'load.3')
    """
    if name in _KEYS:
        return _KEYS[name]
    if again := _AGAIN.fullmatch(name):
        return f"trim.{again[1]}.{int(again[2]) + 1}"
    for pattern, key in _PATTERNS:
        if found := pattern.fullmatch(name):
            return found.expand(key)
    return name
