"""Texts that are kept: no half signs, no control signs, no line breaks, nothing endless.

A half sign (one surrogate of a pair, half an emoji) can be written to no file; a control sign or a
line break in a name breaks sheets, cards and menus. So every text is looked at where it comes in.
"""

import re
import unicodedata
from collections.abc import Container, Iterator
from typing import Any, TypeVar

import msgspec

from aplomb.core.base.errors import Problems

LONGEST_TEXT = 4000
"""Longest text that is kept, and that is taken in from a file [signs]: what is written is read."""
HALF_SIGN = "\N{REPLACEMENT CHARACTER}"
"""What stands for a sign that cannot be read."""

_SUSPICIOUS = re.compile(
    rb"\\[bfnrt]|\\u00[01]|\x7f|\xc2[\x80-\x9f]|\xe2\x80[\xa8\xa9]|\xef\xbf[\xbe\xbf]"
)
_NO_SIGNS = "\ufffe\uffff"
"""No signs at all, and not allowed in SVG or a workbook."""
"""Signs in JSON that may stand for something unwanted; a closer look decides."""
Value = TypeVar("Value")


def free_name(name: str, taken: Container[str]) -> str:
    """Give a name that none has yet: the same, or with a number behind it.

    Examples
    --------
    >>> free_name("New paste", {"New paste", "New paste 2"})
    'New paste 3'
    """
    number, free = 2, name
    while free in taken:
        free, number = f"{name} {number}", number + 1
    return free


def counted(count: int, one: str, many: str) -> str:
    """Give the text for one or the text for many, whole, with ``{}`` for the count.

    Examples
    --------
    >>> counted(1, "one block", "{} blocks"), counted(3, "one block", "{} blocks")
    ('one block', '3 blocks')
    """
    return one if count == 1 else many.format(count)


def is_unwanted(sign: str) -> bool:
    """Tell whether a sign may not stand in a text of one line.

    True for half signs, control signs and line breaks.

    Parameters
    ----------
    sign : str
        One sign.
    """
    return unicodedata.category(sign) in ("Cc", "Cs", "Zl", "Zp") or sign in _NO_SIGNS


def unwanted_in(text: str, longest: int = 0) -> str:
    """Say what in a text cannot be kept; empty when all of it can.

    Parameters
    ----------
    longest : int
        How long it may be [signs]; 0 for any length.

    Returns
    -------
    str
        In words, with the sign's place, counted from 1.
    """
    for at, sign in enumerate(text, 1):
        if is_unwanted(sign):
            kind = unicodedata.category(sign)
            what = "half a character" if kind == "Cs" else "a control character"
            if sign in _NO_SIGNS:
                what = "not a character of any script"
            if sign in "\n\r\v\f\x85\u2028\u2029":
                what = "a line break"
            elif sign == "\t":
                what = "a tab"
            return f"character {at} is {what} (U+{ord(sign):04X}); remove it"
    if longest and len(text) > longest:
        return f"{len(text)} characters are too many; use at most {longest}"
    return ""


def check_texts(value: msgspec.Struct, wrong: Problems, longest: int = LONGEST_TEXT) -> None:
    """Take every text in a value that cannot be kept.

    Parameters
    ----------
    wrong : Problems
        Takes a sentence for each such text, with its place.
    longest : int
        How long a text may be [signs].
    """
    try:
        written = msgspec.json.encode(value)
        if len(written) <= longest and _SUSPICIOUS.search(written) is None:
            return
    except UnicodeEncodeError:
        pass  # half a sign somewhere: the closer look finds it
    for place, text in texts_in(value):
        found = unwanted_in(text, longest)
        if found:
            wrong.add(f"{place}: {found}.")


def texts_in(value: Any, place: str = "") -> Iterator[tuple[str, str]]:
    """Give every text in a value with its place: ``dough 3, note``.

    Parameters
    ----------
    value : Any
        A struct, or what stands in one.
    place : str
        Where it stands itself.
    """
    if isinstance(value, str):
        yield place or "text", value
    elif isinstance(value, msgspec.Struct):
        for name in value.__struct_fields__:
            yield from texts_in(getattr(value, name), _inside(place, name))
    elif isinstance(value, dict):
        for key, each in value.items():
            yield from texts_in(key, _inside(place, "a key"))
            yield from texts_in(each, _inside(place, str(key)[:40]))
    elif isinstance(value, (tuple, list, set, frozenset)):
        for i, each in enumerate(value, 1):
            yield from texts_in(each, f"{place} {i}")


def _inside(place: str, name: str) -> str:
    return f"{place}, {name}" if place else name


def tidied_text(text: str) -> str:
    """Give a text without what cannot be kept: a space for a control sign, � for half a sign."""
    return "".join(
        (HALF_SIGN if unicodedata.category(sign) == "Cs" else " ") if is_unwanted(sign) else sign
        for sign in text
    )


def tidied(value: Value, kind: type[Value]) -> Value:
    """Give a value of an older book with its texts tidied, so that it can be kept again.

    Parameters
    ----------
    kind : type
        Of the value.
    """
    found: Value = msgspec.convert(_tidied(msgspec.to_builtins(value)), type=kind)
    return found


def _tidied(value: Any) -> Any:
    if isinstance(value, str):
        return tidied_text(value)
    if isinstance(value, dict):
        return {_tidied(key): _tidied(each) for key, each in value.items()}
    if isinstance(value, (list, tuple)):
        return [_tidied(each) for each in value]
    return value
