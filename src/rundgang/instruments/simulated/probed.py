"""What somebody reads in the simulated plant who puts a probe into a dough or a piece, or a baked piece on a scale."""

from math import exp, log

from rundgang.core.kinds.conveyor import ConveyorStep
from rundgang.core.products import Product
from rundgang.instruments.simulated.chance import BAKED_SHARE, CORE_C, DOUGH_C, Chance


def dough_c(
    chance: Chance, product: Product, mixer: str, others_c: tuple[float, ...], water_c: float, minute: float
) -> float:  # fmt: skip
    """A dough when it is mixed: the mean of all that goes in, and of what friction adds, °C."""
    friction = chance.friction_c(product.id, mixer, product.mixing.friction_c)
    mixed = (sum(others_c) + water_c + friction) / (len(others_c) + 1)
    return mixed + DOUGH_C * chance.noise(minute, "dough", product.id, mixer)


def baked_core_c(chance: Chance, product: Product, step: ConveyorStep, minute: float) -> float:
    """The core of a piece that leaves the oven or fryer before a cooler, °C."""
    assert step.cooling  # noqa: S101  (only what is cooled by a known run is probed)
    return step.cooling.from_c + CORE_C * chance.noise(minute, "baked core", product.id)


def cooled_core_c(chance: Chance, product: Product, step: ConveyorStep, air_c: float, minute: float) -> float:
    """The core of a piece that leaves the cooler, °C."""
    known = step.cooling
    assert known  # noqa: S101  (only what is cooled by a known run is probed)
    said = log((known.from_c - known.air_c) / (known.to_c - known.air_c)) / known.minutes
    left = exp(-chance.cooling(product.id, said) * step.dwell_min)
    return air_c + (known.from_c - air_c) * left + CORE_C * chance.noise(minute, "cooled core", product.id)


def baked_g(chance: Chance, product: Product, entering_g: float, minute: float) -> float:
    """A baked piece that was so heavy when it came to the oven, g."""
    baked = entering_g * (1 - chance.bake_loss(product.id, product.bake_loss))
    return baked * (1 + BAKED_SHARE * chance.noise(minute, "baked", product.id))
