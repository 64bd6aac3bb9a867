"""The places beside the paste: their words and keys, and how each is made."""

from aplomb.desk.kit.theme import Theme
from aplomb.desk.session import Session
from aplomb.desk.stages.place import Place

PASTE_PLACES = (
    ("list", "Paste a list", "Alt+L"),
    ("pantry", "Pantry", "Alt+M"),
    ("accounts", "Accounts", "Alt+A"),
    ("fats", "Fats", "Alt+F"),
    ("swap", "Swap", "Alt+S"),
    ("solve", "Solve for", "Alt+V"),
    ("water", "Water and ice", "Alt+W"),
    ("gluten_free", "Gluten-free", "Alt+G"),
    ("compare", "Compare", "Alt+C"),
)
"""Places beside the paste: key, word, keys."""

FOLD_PLACES = (
    ("plans", "Find a plan, answer a claim", "Alt+P"),
    ("inside", "Inside the paste", "Alt+I"),
    ("lessons", "Learn the folds", "Alt+H"),
)
"""Places beside the folds, alike."""

BATCH_PLACES = (
    ("cut", "Products and cut plan", "Alt+U"),
    ("day", "Day’s demand", "Alt+D"),
    ("trays", "Trays and oven", "Alt+T"),
    ("costs", "Losses and costs", "Alt+K"),
    ("papers", "Papers", "Alt+R"),
    ("weigh", "Weigh out", "Alt+E"),
)
"""Places beside the batch, alike."""


def make_place(key: str, session: Session, theme: Theme) -> Place:
    """Make a place; its module comes when it is first wanted."""
    if key == "list":
        from aplomb.desk.paste.list_place import ListPlace

        return ListPlace(session, theme)
    if key == "pantry":
        from aplomb.desk.paste.pantry import PantryPlace

        return PantryPlace(session, theme)
    if key == "accounts":
        from aplomb.desk.paste.accounts import AccountsPlace

        return AccountsPlace(session, theme)
    if key == "fats":
        from aplomb.desk.paste.fats import FatsPlace

        return FatsPlace(session, theme)
    if key == "swap":
        from aplomb.desk.paste.swap import SwapPlace

        return SwapPlace(session, theme)
    if key == "solve":
        from aplomb.desk.paste.solve import SolvePlace

        return SolvePlace(session, theme)
    if key == "water":
        from aplomb.desk.paste.water import WaterPlace

        return WaterPlace(session, theme)
    if key == "gluten_free":
        from aplomb.desk.paste.gluten_free import GlutenFreePlace

        return GlutenFreePlace(session, theme)
    if key == "inside":
        from aplomb.desk.folds.inside import InsidePlace

        return InsidePlace(session, theme)
    if key == "lessons":
        from aplomb.desk.folds.lessons import LessonsPlace

        return LessonsPlace(session, theme)
    if key == "plans":
        from aplomb.desk.folds.plans import PlansPlace

        return PlansPlace(session, theme)
    if key == "cut":
        from aplomb.desk.batch.cut import CutPlace

        return CutPlace(session, theme)
    if key == "day":
        from aplomb.desk.batch.day import DayPlace

        return DayPlace(session, theme)
    if key == "trays":
        from aplomb.desk.batch.trays import TraysPlace

        return TraysPlace(session, theme)
    if key == "costs":
        from aplomb.desk.batch.costs import CostsPlace

        return CostsPlace(session, theme)
    if key == "papers":
        from aplomb.desk.paper.place import PapersPlace

        return PapersPlace(session, theme)
    if key == "weigh":
        from aplomb.desk.batch.weigh import WeighPlace

        return WeighPlace(session, theme)
    from aplomb.desk.paste.compare import ComparePlace

    return ComparePlace(session, theme)
