"""The steps of an oven: heated once, then load after load."""

from collections.abc import Mapping, Sequence

from aplomb.core.base.ovens import Oven
from aplomb.core.make import words
from aplomb.core.make.gathering import Gathering
from aplomb.core.make.step import LoadOf


def add_loads(
    gather: Gathering,
    loads: Sequence[LoadOf],
    ovens: Sequence[Oven],
    step_of: Mapping[str, str],
    per_tray: Mapping[str, float],
    called: Mapping[str, str] | None = None,
) -> list[str]:
    """Add heating, and one in, bake and out for each load; gives the keys of the outs.

    Parameters
    ----------
    step_of : dict of str, by product
        Key of the step that sets it on its trays.
    per_tray : dict of float, by product
        What lies on a full tray [g].
    called : dict of str, by product, or None
        What a product is called where that is not its name.
    """
    heated: dict[str, str] = {}
    last_out: dict[str, str] = {}
    outs: list[str] = []
    for load in loads:
        if load.oven not in heated:
            oven = next(o for o in ovens if o.name == load.oven)
            number = len(heated) + 1
            gather.unit(f"oven{number}", "oven", 0.0, load.oven)
            heated[load.oven] = gather.add(
                "heat",
                f"oven{number}",
                after=(),
                alone_min=oven.heat_min,
                words=f"Heat {load.oven}",
            )
        grams = sum(per_tray[name] * many for name, many in load.trays)
        gather.unit(load.key, "load", grams, load.oven)
        gather.add(
            "load_in",
            load.key,
            after=[step_of[name] for name, _ in load.trays],
            op="load in",
            more_after=(last_out.get(load.oven) or heated[load.oven],),
            cautions=(words.HOT_OVEN,),
            words=f"Load {load.key[1:]} in: {_trays(load, called or {})}",
        )
        gather.add(
            "bake",
            load.key,
            alone_min=load.minutes,
            programme=load.programme,
            words=f"Bake {load.minutes:g} min",
            sign=_bake_sign(load),
        )
        out = gather.add("load_out", load.key, op="load out", cautions=(words.HOT_OVEN,))
        last_out[load.oven] = out
        outs.append(out)
    return outs


def _trays(load: LoadOf, called: Mapping[str, str]) -> str:
    return ", ".join(
        f"{many} {'tray' if many == 1 else 'trays'} of {called.get(name, name) or 'pieces'}"
        for name, many in load.trays
    )


def _bake_sign(load: LoadOf) -> str:
    until = [step.until for step in load.programme.steps if step.until]
    return until[-1] if until else words.SIGNS["bake"]
