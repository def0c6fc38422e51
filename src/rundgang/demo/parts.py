"""What the demo's lines are written with: short forms for formulas, mixing and machines."""

from rundgang.core.cautions import Hazard
from rundgang.core.kinds.batch import BatchStep, MixPhase
from rundgang.core.kinds.parts import Changeover, CrewUse, WearingTool
from rundgang.core.kinds.rate import RateStation
from rundgang.core.plant import Crew
from rundgang.core.products import FormulaLine

PACKERS = Crew(id="packers", name="Packers", people=19, per_h=24)
CREWS = (PACKERS,)
"""Hands that go to whichever line packs."""

CLEANED = Changeover(separation_min=1, allergen_clean_min=10, trait_clean_min=4)


def formula(**percents: float | tuple[float, float]) -> tuple[FormulaLine, ...]:
    """Baker's percents by ingredient; a pair is percent and the minute at which it goes in."""
    lines = []
    for name, given in percents.items():
        percent, at_min = given if isinstance(given, tuple) else (given, 0.0)
        lines.append(FormulaLine(ingredient=name.replace("_", "-"), percent=percent, at_min=at_min))
    return tuple(lines)


def mix(
    station: str,
    *phases: tuple[str, float],
    charge: float = 3,
    discharge: float = 2,
    friction: float = 18,
    work: float | None = None,
    rest: float = 0,
    age: float = 40,
    dry_ice: float = 0,
) -> BatchStep:
    """Mixing in phases of speed and minutes."""
    return BatchStep(
        station=station,
        charge_min=charge,
        phases=tuple(MixPhase(speed=speed, minutes=minutes) for speed, minutes in phases),
        discharge_min=discharge,
        friction_c=friction,
        work_wh_per_kg=work,
        dry_ice_pct=dry_ice,
        rest_min=rest,
        max_age_min=age,
    )


def machine(
    station: str,
    name: str,
    *,
    lanes: int = 1,
    machines: int = 1,
    efficiency: float = 0.97,
    inside: float = 0.3,
    transfer: float = 0.3,
    tool: float = 0,
    hazards: tuple[Hazard, ...] = ("rollers",),
    packers: int = 0,
    tools: tuple[WearingTool, ...] = (),
) -> RateStation:
    """A machine with lanes, cleaned as all of them are; perhaps with packers at it."""
    changeover = CLEANED.model_copy(update={"tool_change_min": tool})
    return RateStation(
        id=station,
        name=name,
        machines=machines,
        lanes=lanes,
        efficiency=efficiency,
        pass_min=inside,
        transfer_min=transfer,
        changeover=changeover,
        hazards=hazards,
        tools=tools,
        staffed=CrewUse(crew=PACKERS.id, people=packers) if packers else None,
    )
