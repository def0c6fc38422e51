"""Which calculators there are, and each question's fields as a form needs them."""

from pydantic.fields import FieldInfo

from rundgang.core.calculators.converting import UnitsQuestion, units_answer
from rundgang.core.calculators.dough import (
    DryIceQuestion,
    FlourQuestion,
    LaminationQuestion,
    ProofQuestion,
    WaterQuestion,
    dry_ice_answer,
    flour_answer,
    lamination_answer,
    proof_answer,
    water_answer,
)
from rundgang.core.calculators.heat import (
    CoolingQuestion,
    FitQuestion,
    FryerQuestion,
    OvenQuestion,
    SweatQuestion,
    cooling_answer,
    fit_answer,
    fryer_answer,
    oven_answer,
    sweat_answer,
)
from rundgang.core.calculators.parts import Entry
from rundgang.core.calculators.weighing import ControlQuestion, WeightsQuestion, control_answer, weights_answer
from rundgang.core.errors import UnknownItemError
from rundgang.core.model import Model

CALCULATORS: tuple[Entry, ...] = (
    Entry("water", "Water temperature", "factor rule and heat balance side by side", WaterQuestion, water_answer),
    Entry("flour", "Flour moisture", "drier flour, humid room", FlourQuestion, flour_answer),
    Entry("proof", "Proof", "time against temperature", ProofQuestion, proof_answer),
    Entry("lamination", "Lamination", "layers and fat blocks", LaminationQuestion, lamination_answer),
    Entry("weights", "Weights", "the law, the target, the giveaway", WeightsQuestion, weights_answer),
    Entry("control", "Control chart", "limits and drift", ControlQuestion, control_answer),
    Entry("cooling", "Cooling", "until it can be bagged", CoolingQuestion, cooling_answer),
    Entry("cooling-rate", "Cooling rate", "from core readings", FitQuestion, fit_answer),
    Entry("sweat", "Dew point", "will the bag sweat", SweatQuestion, sweat_answer),
    Entry("oven", "Oven", "loading and heat", OvenQuestion, oven_answer),
    Entry("fryer", "Fryer", "places and oil", FryerQuestion, fryer_answer),
    Entry("units", "Units", "metric and US customary", UnitsQuestion, units_answer),
    Entry("dry-ice", "Dry ice room", "CO2 against the limits", DryIceQuestion, dry_ice_answer),
)


def entry(entry_id: str) -> Entry:
    """The entry of that id, or UnknownItemError."""
    for found in CALCULATORS:
        if found.id == entry_id:
            return found
    raise UnknownItemError("calculation", entry_id, tuple(found.id for found in CALCULATORS))


class AskedFor(Model):
    """A field of a question, as a form needs it.

    Attributes
    ----------
    first : str
        Value to begin from, as typed.
    choices : tuple of str
        Where one of a few is asked; empty otherwise.
    many : bool
        Where several numbers are asked.
    """

    name: str
    title: str
    quantity: str
    unit: str
    first: str
    least: float | None
    most: float | None
    choices: tuple[str, ...]
    many: bool


def asked_for(question: type[Model]) -> tuple[AskedFor, ...]:
    """The fields of a question, in order."""
    return tuple(_asked_for(name, field) for name, field in question.model_fields.items())


def _asked_for(name: str, field: FieldInfo) -> AskedFor:
    extra = field.json_schema_extra if isinstance(field.json_schema_extra, dict) else {}
    bounds = {type(bound).__name__: getattr(bound, type(bound).__name__.lower(), None) for bound in field.metadata}
    many = isinstance(field.default, tuple)
    return AskedFor(
        name=name,
        title=field.title or name,
        quantity=str(extra.get("quantity", "")),
        unit=str(extra.get("unit", "")),
        first=" ".join(f"{value:g}" for value in field.default) if many else str(field.default),
        least=None if many else bounds.get("Ge"),
        most=None if many else bounds.get("Le"),
        choices=getattr(field.annotation, "__args__", ()) if isinstance(field.default, str) else (),
        many=many,
    )
