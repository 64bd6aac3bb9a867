"""What the steps of a make are called, the sign that ends each, the caution that belongs to it."""

from collections.abc import Collection

from aplomb.core.paste.formula import MixingWay
from aplomb.core.paste.make_up import MakeUp
from aplomb.core.paste.pantry import Pantry

SIGNS: dict[str, str] = {
    "weigh": "every line is ticked",
    "temper": "it bends without cracking",
    "soften": "it spreads without tearing the dough",
    "mix_fat": "no streak is left in it, and it is still cool",
    "press": "it has its size and is even, with square corners",
    "divide": "each piece has its weight",
    "enclose": "the edges are sealed and no fat shows",
    "spread": "the fat reaches the edges that it should, evenly",
    "gather": "the mass holds together; pieces of fat are still whole",
    "add": "it lies even, and none of it is at the edge",
    "turn": "edges meet, corners are square, no flour is left between the folds",
    "roll_up": "the roll is tight, with no air in its middle",
    "trim": "the open edges show even leaves",
    "thaw": "it bends without cracking",
    "stand": "a thumb leaves a clean dent",
    "sheet": "it has its size and thickness from edge to edge",
    "relax": "it no longer shrinks when lifted",
    "cut": "the cuts are straight down and clean",
    "cook": "it is cooked through, thick enough not to run",
    "fill": "the edge is sealed all round and nothing shows",
    "line": "the paste lies in every corner without being stretched",
    "slice": "the slices are round and hold together",
    "shape": "every piece is like the first",
    "dock": "the holes go right through",
    "wash": "the top shines and the cut edges are dry",
    "tray": "the pieces stand apart by the room they need",
    "heat": "a thermometer shows its temperature",
    "load_in": "the door is shut and the time is noted",
    "bake": "top and base are brown, and it is light for its size",
    "load_out": "the tray is on its rack",
    "cool": "it is cold to the middle",
    "pack": "each pack is closed and labelled",
    "wrap": "no air is left under the wrap, and the label is on",
    "store": "it is in its place, and noted",
    "move": "it is in its new place",
}
"""By the kind of step, common practice."""

MIX_SIGNS: dict[MixingWay, str] = {
    "together": "the bowl is wiped clean and it holds when squeezed",
    "kneaded": "it is elastic and springs back slowly",
}

DONE: dict[str, str] = {
    "weigh": "Weigh out",
    "mix": "Mix the dough",
    "temper": "Let the fat come to where it bends",
    "soften": "Soften the fat",
    "press": "Press the fat to its size",
    "divide": "Divide",
    "enclose": "Enclose the fat",
    "gather": "Gather to a block",
    "trim": "Trim the edges",
    "thaw": "Take out to thaw",
    "stand": "Take out of the fridge and let it stand until it can be rolled",
    "sheet": "Roll to the final sheet",
    "relax": "Lift the sheet and let it shrink back",
    "cut": "Cut",
    "cook": "Cook the filling and let it cool",
    "fill": "Fill",
    "line": "Line",
    "slice": "Cut the log into slices",
    "shape": "Shape",
    "dock": "Dock",
    "wash": "Wash and top",
    "tray": "Set on trays",
    "heat": "Heat the oven",
    "load_in": "Into the oven",
    "bake": "Bake",
    "load_out": "Out of the oven",
    "cool": "Let cool on a rack",
    "pack": "Pack",
    "wrap": "Wrap and label",
    "store": "Store",
    "move": "Move to its next place",
}
"""What is done, by the kind of step, where the step says no more."""

FILL_SIGNS: dict[MakeUp, str] = {
    "folded": "the edge is sealed all round and nothing shows",
    "lining": "it stands below the rim and none has run over",
    "border": "it stays inside the border, and the border is clean",
    "log": "it lies even, and the far edge is bare",
}
"""What ends a filling, by the make-up of its product; common practice."""
FILLED = "it is in the middle, the same on each"
ROLLED_SIGNS = {
    False: "the roll is tight, with no air in its middle",
    True: "the two rolls are alike and meet in the middle",
}
SLICED_SIGNS = {
    False: "the slices are round and hold together",
    True: "the slices are alike and lie with the cut face up",
}
"""By whether a log is rolled up from both sides."""
TOPPED = "it lies even over every piece"
"""What ends a topping that is strewn."""

SHAPING: dict[MakeUp, str] = {
    "two_parts": "Wet the base with water, set the ring or lid on it and press lightly",
    "border": "Fold the edge in, crimp it and prick the middle",
    "log": "Roll up, wrap and chill until it cuts",
    "stacked": "Stack the strips, press, cut across, lay with the cut face up",
    "offcuts": "Stack the scrap flat, never balled; rest it and roll it thicker",
}
"""How a product is shaped, by its make-up; common practice."""

RAW_EGG = "Raw egg: wash hands and tools after it; keep it away from what is eaten unbaked."
RAW_FLOUR = "Raw flour is not eaten; wipe the bench after it."
BOTH_SIDES = "Roll up both long sides to the middle, wrap and chill until it cuts"
HOT_SUGAR = "Hot sugar burns deeply: use a palette knife, never fingers."
HOT_OVEN = "Stand aside from the steam when the door opens; gloves on. Fat that drips can burn."
KNIFE = "Cut away from the hand that holds."
ROLLERS = "Guards on, hands away from the rollers; trained people only."
FILLED_COLD = (
    "Filled pieces: not long out of the cold; local food rules decide how long. Note the time."
)
RAW_MEAT = (
    "Raw meat: its own board, clean hands after it, and a middle hot enough by local food rules."
)
FRYING = "Hot fat for frying: never leave it, no water near it, a lid at hand."
PACK_COLD = "Pack only when cold: warm pieces sweat in the pack."
THAW_ONCE = "What has been thawed is not frozen again."


def fat_mixed(materials: Collection[str], pantry: Pantry) -> str:
    """Say what is worked together before a fat block is pressed; empty for one fat alone."""
    if any(pantry[key].is_flour for key in materials):
        return "Work the flour into the fat"
    return "Work the fats of the block together" if len(materials) > 1 else ""
