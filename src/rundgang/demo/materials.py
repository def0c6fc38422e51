"""What lies in Ostermere's stores: ingredients, packing, and how much of each on the first evening."""

from rundgang.core.cautions import Hazard
from rundgang.core.plant import Ingredient
from rundgang.core.scenario import Delivery, Stock

GLUTEN = frozenset({"gluten"})


def _flour(item: str, name: str) -> Ingredient:
    return Ingredient(id=item, name=name, role="flour", allergens=GLUTEN, scale_step_g=100)


def _other(item: str, name: str, *allergens: str, step: int = 10, hazards: tuple[Hazard, ...] = ()) -> Ingredient:
    return Ingredient(id=item, name=name, allergens=frozenset(allergens), scale_step_g=step, hazards=hazards)


def _packing(item: str, name: str) -> Ingredient:
    return Ingredient(id=item, name=name, role="packing")


RING_STORES = (
    _flour("flour-mill", "Mill flour 700"),
    _flour("flour-spelt", "Spelt flour"),
    Ingredient(id="water", name="Water", role="water", scale_step_g=1),
    _other("malt", "Malt syrup", "gluten"),
    _other("yeast", "Fresh yeast"),
    _other("salt", "Salt"),
    _other("oil", "Rapeseed oil"),
    _other("sesame", "Toasted sesame", "sesame"),
    _other("pear", "Dried pear cubes"),
    _other("cardamom", "Ground cardamom", step=5),
)

INGREDIENTS = (
    *RING_STORES,
    _flour("flour-strong", "Strong flour 812"),
    _flour("flour-whole", "Wholemeal flour"),
    _flour("flour-rye", "Rye flour 997"),
    _flour("flour-soft", "Soft biscuit flour"),
    _other("gluten-meal", "Wheat gluten", "gluten"),
    _other("sugar", "Sugar", hazards=("lifting",)),
    _other("dextrose", "Dextrose"),
    _other("palm", "Baking fat"),
    _other("butter", "Butter", "milk"),
    _other("butter-sheet", "Butter sheets", "milk", hazards=("lifting",)),
    _other("milk-powder", "Milk powder", "milk"),
    _other("egg", "Liquid egg", "egg", hazards=("cream-filling",)),
    _other("soda", "Baking soda", step=5),
    _other("cocoa", "Cocoa"),
    _other("oats", "Rolled oats", "gluten"),
    _other("poppy", "Blue poppy seed"),
    _other("seeds", "Seven-field seed mix", "sesame"),
    _other("cinnamon", "Cinnamon sugar"),
    _other("lemon", "Lemon oil paste", step=5),
    _other("frying-oil", "Frying oil", hazards=("hot-oil",)),
    _other("plum", "Plum filling"),
    _other("hazel", "Hazelnut paste", "nuts"),
    _other("almond", "Almond paste", "nuts"),
    _other("icing", "Icing sugar"),
    _other("vanilla", "Vanilla custard powder", "milk", step=5),
    _other("gelatine", "Gelatine", step=5),
    _other("glucose", "Glucose syrup", hazards=("lifting",)),
    _other("chocolate", "Milk chocolate", "milk"),
    _other("dark-chocolate", "Dark chocolate"),
    _other("enzyme", "Protease", step=1),
    _packing("bag-clear", "Clear bag"),
    _packing("bag-print", "Printed bag"),
    _packing("tray-six", "Tray for six"),
    _packing("tub", "Tub"),
    _packing("film", "Flow film, a wrap"),
    _packing("carton", "Carton"),
    _packing("label", "Label"),
)

PRICES = {
    "flour-mill": 0.48, "flour-spelt": 0.92, "flour-strong": 0.55, "flour-whole": 0.58, "flour-rye": 0.5,
    "flour-soft": 0.46, "malt": 1.3, "yeast": 1.1, "salt": 0.22, "oil": 1.45, "sesame": 3.1, "pear": 6.2,
    "cardamom": 24.0, "gluten-meal": 2.0, "sugar": 0.88, "dextrose": 0.9, "palm": 1.35, "butter": 6.4,
    "butter-sheet": 6.9, "milk-powder": 3.3, "egg": 2.4, "soda": 0.7, "cocoa": 7.5, "oats": 0.8, "poppy": 4.2,
    "seeds": 3.6, "cinnamon": 5.2, "lemon": 11.0, "frying-oil": 1.6, "plum": 2.1, "hazel": 8.8, "almond": 9.6,
    "icing": 1.05, "vanilla": 3.4, "gelatine": 9.0, "glucose": 0.85, "chocolate": 6.8, "dark-chocolate": 7.2,
    "bag-clear": 0.021, "bag-print": 0.034, "tray-six": 0.055, "tub": 0.09, "film": 0.012, "carton": 0.31,
}  # fmt: skip
"""What a kilogram, or a piece of packing, costs; some have no price."""

DAY_MIN = 24 * 60


def _stock(
    item: str, on_hand: float, each: float = 0, at_hour: float = 10, days: int = 3, *, binds: bool = False
) -> Stock:
    """So much on the first evening, and as much again on each day at an hour after the start."""
    deliveries = tuple(Delivery(at_min=at_hour * 60 + day * DAY_MIN, amount=each) for day in range(days) if each)
    return Stock(item=item, on_hand=on_hand, deliveries=deliveries, binds=binds)


STOCKS = (
    _stock("flour-mill", 12_000, 9_000, 11),
    _stock("flour-strong", 16_000, 12_000, 9),
    _stock("flour-whole", 3_500, 2_500, 9),
    _stock("flour-rye", 1_800),
    _stock("flour-spelt", 2_400),
    _stock("flour-soft", 9_000, 6_000, 12),
    _stock("sugar", 4_500, 2_000, 12),
    _stock("palm", 2_500, 1_500, 12),
    _stock("yeast", 900, 600, 8),
    _stock("salt", 2_000),
    _stock("butter-sheet", 2_600, 1_400, 10),
    _stock("frying-oil", 1_200, 800, 14),
    _stock("sesame", 700),
    _stock("chocolate", 900, 1_400, 31, days=1, binds=True),
    _stock("plum", 900),
    _stock("bag-clear", 70_000, 40_000, 10),
    _stock("bag-print", 60_000, 30_000, 10),
    _stock("tray-six", 22_000, 15_000, 10),
    _stock("film", 60_000),
    _stock("carton", 9_000),
    _stock("label", 150_000),
)
