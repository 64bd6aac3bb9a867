"""Everyday words of lists: what says nothing of a material, what makes it another, languages."""

import re

_HANDLING_WORDS = """
a about above absorbency absorption according added afford again aged all almost also altogether
american amount amounts an and another any approx are around-ish artisan as aside at au aux bag
bake baker bakers bakes baking bar barely bars bash bashed basic be beat beaten below bench best
bestreichen beurrage big big-ish bit bits bleached block block-form board boiled bottle bottled
bought bowl box brand british brush brushed brushing buy can carton cheap cheapest chilled chopped
chunk chunks classic clean coarse coarsely coat coating cold come comes common completely
continental cool cooled counter counter-top creamed crumbled crumbs cube cube-shaped cubed cubes
cup curls cut dabs danish dash day day-old decent decorate decorating decoration deep depending
dice diced discarded divided dorer dorure dots dotted dough drained dried-off drizzle drop drops
dry dust dusted dusting each edge edges egg-wash eight en enclose enclosing english enough
enriched even evenly everyday exactly expensive extra extra-large farm farmhouse fast favorite
favourite filling filtered fin find finds fine finely finish fino firm first five flake flakes
flat flatten flattened flouring fold folding for fortified found four fredda freddo free
free-range freerange freezer french fresh freshly fridge froid froide froids from frozen fría frío
fully für garnish generous gently genuine german get give gives glaze glazing go goes gone good
got gram grams gran grandmother grated grease greasing ground half half-frozen hand handed handful
hands hard hardened hazelnut-sized heaped heaping here hit home homemade hot hour hours house i
ice ice-cold iced icy ideally if il imported in inside into irish is it italian its jar juiced
jumbo just kalte kalter kaltes keep kept kind kinds kitchen kneaded knob knobs la laminating
lamination lamination-fat large last later layering le left les level levelled lightly like lining
little lo local log logs long loose loosely love lovely lukewarm lump lumps machine made make
makes making malleable many matured may maybe measured medium melted might mild mill milled
millers min mineral mins minute minutes mixed mixer mold molds molto more mother mou mould much
mum mums my nan natural nearly necessary need needed needs new nice nicely night nine normal not
note notes nut of off old on once one only optional or ordinary organic other our out over
overnight own pack packed packet page para paste pastry pastry-making patience patted pea-sized
peeled perhaps piece pieces pin pinch pins pintar pkt plain-ish plastic please pliable plus
possible pour pre-cut precisely precut prefer preferably prepared processor proper pure put
quality quantity quarter quick quickly quite range rather ready real really recipe recipe-free
regular remaining removed required reserved rest rested ribbons ring rings rinsed roll roll-in
rolled rolling room room-temperature roughly round rounded rub rubbed running same scaled scant
scoop scooped scottish second see sehr separated serve serving set seven shallow shape shaped
shapes sharp shaved shavings sheet shop short should sieved sifted simple six size sized slab
slice sliced slices slightly slow small small-ish so soft softened solid some sort sorts
spennellare splash spoon spooned spoonful spoons sprinkle sprinkled sprinkling square squeezed
standard standing step stick stickfuls sticks still stirred stone-ground stoneground stood
straight strained strip strips strong-ish stuff super supermarket surface swept tablespoon take
taken takes tall tap taste teaspoon temp temperature ten tender tenderly tepid that the them there
these they thick thick-ish thickly thin thing things thinly third this thoroughly those three
tightly times tin tins tip tips to together too top tops total tourage traditional tray très tub
turns twice two type ultra unbleached unopened unsweetened until untreated use used using usual
very very-cold village waiting walnut-sized want wants warm wash washed waxy we wedge wedges weich
weiche weighed weight well welsh when whisked whole-block wide will with worked worktop would
wrapped xl yellow you your zested zum
zimmerwarm zimmerwarme kalt kalte eiskalt pommade
"""
HANDLING = frozenset(_HANDLING_WORDS.split())
"""Words that say what is done with a material or how it is handled, not what it is."""

ANOTHER = re.compile(
    r"\bice[- ]cream|(?:fat|sugar|dairy|lactose|salt)[- ]free"
    r"|cream of tartar|cream cheese|salad cream|hand cream|shaving cream"
    r"|custard powder|baking (?:powder|soda)|bicarb|self[- ]rais|yeast|sourdough"
    r"|rose ?water|orange (?:flower|blossom)"
    r"|soda water|tonic water|coconut|peanut|almond (?:milk|butter)|nut butter|cocoa butter|shea"
    r"|oat milk|soya?\b|rice milk|hazelnut (?:butter|milk)|apple butter|garlic butter|herb butter"
    r"|brandy butter|lemon butter|condensed|evaporated|malted milk|clotted|goose fat"
    r"|duck fat|suet\b"
    r"|dripping|ghee|clarified|celery salt|garlic salt|onion salt|smoked salt|bath salt|epsom"
    r"|egg (?:noodle|plant|custard)|easter egg|chocolate egg|eggnog|caviar"
    r"|flour tortilla|gram flour"
    r"|chickpea|balsamic|rice vinegar|sherry vinegar|apple juice|orange juice"
    r"|lemon (?:curd|thyme|grass)"
    r"|\bzest\b|maple|golden syrup|treacle|butterbean|butter beans?|butternut|buttercream"
    r"|milk chocolate|water ?melon|water ?cress|water ?chestnut|bread ?crumbs|polenta|semolina",
    re.IGNORECASE,
)
"""Foods that carry the name of a material of the pantry and are not it."""

CHANGING_ENDINGS = (
    "salted", "unsalted", "soured", "dried", "powdered", "condensed", "evaporated", "clotted",
    "smoked", "flavoured", "flavored", "malted", "skimmed", "raised", "toasted", "roasted",
    "clarified", "browned", "spiced", "sweetened", "concentrated", "candied", "pickled",
    "fermented", "infused", "caramelised", "caramelized", "whipped", "raising", "rising",
)  # fmt: skip
"""Words in -ed and the like that do change what a material is."""

ABROAD: tuple[tuple[str, str], ...] = (
    (
        (
            r"jaunes? d[’']?\s*(?:œ|oe)ufs?|jaunes?\b|eigelbe?\b|tuorl[oi]\b|yemas?\b"
            r"|eidooiers?\b"
        ),
        "egg yolk",
    ),
    (
        (
            r"blancs? d[’']?\s*(?:œ|oe)ufs?|eiwei(?:ß|ss)e?\b|eiklar\b|album[ei]\b|claras?\b"
        ),
        "egg white",
    ),
    (
        (
            r"(?:farine|harina) de (?:force|fuerza|gruau)|farina (?:manitoba|forte|di forza)"
        ),
        "strong flour",
    ),
    (r"farine de sarrasin|buchweizenmehl|grano saraceno", "buckwheat flour"),
    (r"farine d[’'] ?épeautre|dinkelmehl|farina di farro", "spelt flour"),
    (
        (
            r"farine (?:complète|intégrale)|vollkornmehl|farina integrale|harina integral"
        ),
        "wholemeal flour",
    ),
    (r"farine de riz|reismehl|farina di riso|harina de arroz", "white rice flour"),
    (
        (
            r"farine(?: de blé)?(?: blanche)?|weizenmehl|\bmehl\b|farina(?: di grano tenero)?"
            r"|harina(?: de trigo)?|tarwebloem|bloem\b|\bmeel\b"
        ),
        "flour",
    ),
    (
        (
            r"beurre (?:demi[- ]sel|salé)|gesalzene butter|salzbutter|burro salato"
            r"|mantequilla (?:con sal|salada)"
        ),
        "salted butter",
    ),
    (r"beurre (?:sec|de tourage|de laminage)", "dry butter"),
    (
        (
            r"beurre(?: doux)?|süßrahmbutter|sauerrahmbutter|burro(?: non salato)?"
            r"|mantequilla(?: sin sal)?|roomboter|boter\b|smör\b"
        ),
        "butter",
    ),
    (r"saindoux|(?:schweine)?schmalz|strutto|manteca(?: de cerdo)?|reuzel", "lard"),
    (r"margarine de feuilletage|ziehmargarine|margarina sfoglia", "pastry margarine"),
    (r"graisse végétale|pflanzenfett|grasso vegetale|grasa vegetal", "shortening"),
    (r"\beaux?\b|wasser\b|agua\b|acqua\b|vatten\b", "water"),
    (r"(?:fleur|gros) (?:de )?sel|grobes salz|meersalz|sale grosso|sal gorda", "coarse salt"),
    (r"\bsel\b(?: fin)?|\bsalz\b|\bsale\b(?: fino)?|\bsal\b(?: fina)?|zout\b", "salt"),
    (r"sucre glace|puderzucker|zucchero a velo|azúcar glas", "icing sugar"),
    (r"sucre(?: semoule| en poudre)?|zucker\b|zucchero\b|azúcar\b|suiker\b", "sugar"),
    (r"vinaigre de cidre|apfelessig|aceto di mele|vinagre de manzana", "cider vinegar"),
    (r"vinaigre blanc|branntweinessig|weißer essig|vinagre blanco", "spirit vinegar"),
    (r"vinaigre|\bessig\b|\baceto\b|vinagre\b", "vinegar"),
    (r"jus d(?:e |[’']un |[’']un demi-)?citrons?|zitronensaft", "lemon juice"),
    (r"succo di limone|zumo de limón", "lemon juice"),
    (r"poudre de lait|milchpulver|latte in polvere|leche en polvo", "milk powder"),
    (r"lait écrémé|magermilch|latte scremato|leche desnatada", "skimmed milk"),
    (r"lait(?: entier)?|(?:voll)?milch\b|latte(?: intero)?|leche(?: entera)?", "whole milk"),
    (r"babeurre|buttermilch|latticello|suero de leche", "buttermilk"),
    (
        (
            r"crème (?:liquide|entière|fleurette)|(?:schlag)?sahne\b|panna(?: fresca)?"
            r"|nata(?: para montar)?"
        ),
        "whipping cream",
    ),
    (r"(?:œ|oe)ufs?(?: entiers?)?\b|\beier\b|\bei\b|huevos?\b|uov[oa]\b", "egg"),
    (r"maïzena|fécule de maïs|maisstärke|amido di mais|maicena", "maize starch"),
    (r"fécule de pommes? de terre|kartoffelstärke|fecola di patate", "potato starch"),
    (r"huile de tournesol|sonnenblumenöl|olio di girasole|aceite de girasol", "sunflower oil"),
    (r"huile de colza|rapsöl|olio di colza", "rapeseed oil"),
    (r"\bmiel\b|\bhonig\b|\bmiele\b", "honey"),
)  # fmt: skip
"""Everyday materials in French, German, Italian, Spanish, Dutch: a matter of the dictionary."""
_ABROAD = tuple((re.compile(pattern, re.IGNORECASE), words) for pattern, words in ABROAD)
_ANY_ABROAD = re.compile("|".join(pattern for pattern, _ in ABROAD), re.IGNORECASE)
_SMALL_ABROAD = re.compile(
    r"(?<![^\W\d_])(?:du|des|de la|de l[’']|d[’']|l[’']|di|del|della|dell[’']|der|die"
    r"|das|und|et|con|mit|"
    r"un|une|uno|una|ein|eine|kalte[srnm]?|kaltes|eiskalte[srnm]?|freddo|fredda"
    r"|freddissim[oa]|fría|frío|froide?s?|"
    r"glacée?s?|très|sehr|molto|muy|weiche?s?|morbido|mou|fondue?|geschmolzene?s?|fuso"
    r"|fundida|zimmerwarme?|"
    r"frische?s?|frais|fraîche|fresco|fresca|bio|en morceaux|in stücken|a pezzi"
    r"|a cubetti|en dés|gewürfelt|"
    r"tamisée?|gesiebt|setacciata|tamizada|sin|senza|ohne|sans|fein|feines?|fines?"
    r"|mittelgroße?|große?|kleine?s?|"
    r"gros|grandes?|grandi|petits?|pequeños?)(?![^\W\d_])\s*",
    re.IGNORECASE,
)


def in_english(words: str) -> str:
    """Put everyday materials of other languages into English; what is English stays as it is.

    Examples
    --------
    >>> in_english("beurre doux froid")
    'butter '
    """
    if _ANY_ABROAD.search(words) is None:
        return words
    made = words
    for pattern, meant in _ABROAD:
        made = pattern.sub(meant, made)
    return (
        made if made == words else _SMALL_ABROAD.sub("", re.sub(r"\bde\b\s*|\bd[’']\s*", "", made))
    )
