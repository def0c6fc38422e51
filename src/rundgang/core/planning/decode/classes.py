"""Classes: what the lines of a shop make, each product as often as the window's air asks for other dwells."""

from collections.abc import Iterable, Iterator
from math import inf

from rundgang.core.heat import HeatClass, heat_classes
from rundgang.core.planning.model import Run
from rundgang.core.plant import Line
from rundgang.core.scenario import Scenario


def classes_in(
    scenario: Scenario, lines: Iterable[Line], ordered: Iterable[str], fixed: Iterable[Run]
) -> Iterator[HeatClass]:
    """The heat classes of every product that is ordered, or cut out of; and as what fixed runs are made.

    Those of one product follow each other, the coolest first; what only fixed runs are made as is good for no air.
    """
    made_as = {run.made_as for run in fixed}
    wanted = {*ordered, *(product for product, _ in made_as)}
    for line in lines:
        for product in scenario.made_on(line.id):
            cut = scenario.cut_from(product)
            if product.id not in wanted and not (cut and cut.id in wanted):
                continue
            classes = heat_classes(scenario, product)
            yield from classes
            known = {tuple(sorted(made.dwell_min.items())) for made in classes}
            for dwell in sorted(dwell for name, dwell in made_as if name == product.id and dwell not in known):
                yield HeatClass(scenario.dwelling(product.id, dict(dwell)), dict(dwell), -inf)
