"""The case ``oven``: a setting in every way it is said."""

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.oven.setting import Setting, read_setting


class OvenCase(Struct, frozen=True, forbid_unknown_fields=True):
    """A setting as it is written."""

    setting: str


class OvenResult(Struct, frozen=True):
    """The same in every way; as `aplomb.core.oven.setting.Setting`."""

    conventional_c: float
    fan_c: float
    fahrenheit: float
    gas: str | None
    understood: str


def oven(case: OvenCase) -> OvenResult:
    """Work the case out.

    Raises
    ------
    TextError
        Pointing at what cannot be used.
    """
    found: Setting = read_setting(case.setting)
    return OvenResult(
        round(found.conventional_c, 6),
        round(found.fan_c, 6),
        round(found.fahrenheit, 6),
        found.gas,
        found.understood,
    )


def oven_words(found: OvenResult, to: str = "") -> str:
    """Say a setting in plain words.

    Parameters
    ----------
    to : str
        ``conventional``, ``c``, ``fan``, ``fahrenheit``, ``f`` or ``gas``; empty for all.

    Raises
    ------
    AplombError
        When it cannot be said so.
    """
    gas = f"gas mark {found.gas}" if found.gas else ""
    every = {
        "conventional": f"{found.conventional_c:.0f} °C without a fan",
        "fan": f"{found.fan_c:.0f} °C with a fan",
        "fahrenheit": f"{found.fahrenheit:.0f} °F",
        "gas": gas,
    }
    if not to:
        return f"{found.understood}: " + ", ".join(each for each in every.values() if each)
    key = {"c": "conventional", "f": "fahrenheit"}.get(to, to)
    if not every.get(key):
        raise AplombError(f"{found.understood} has no gas mark; gas marks go from 1/4 to 10")
    return every[key]
