"""No-wait flow shops as plants: jobs in which no station holds two, priced by when the last of them is done.

A job is one piece of a product of its own; a machine is a belt that must be empty before a piece of another dwell
comes in. The engine that plans a bakery then plans the published flow shops (`computation.md` §6.7).
"""

from collections.abc import Sequence

import numpy as np

from plants import belt, mixers, on_belt, product, scenario
from rundgang.core.compiled import Floats
from rundgang.core.planning.model import PlantPlan
from rundgang.core.planning.objective import PARTS, Weights
from rundgang.core.scenario import Scenario

LARGEST = 2_147_483_647
APART_MIN = 1e-5
"""So little do dwells of one length differ from job to job: a belt knows by that that it must be empty first."""

PIECES_PER_HOUR = 1e5

WEEK_MIN = 10_080

MAKESPAN = Weights(**dict.fromkeys(PARTS, 0.0) | {"last_pack_min": 1.0, "packs_short": 1e5})
"""The last pack is all that counts, once every job is done."""


def taillard(jobs: int, machines: int, seed: int) -> Floats:
    """Processing times of É. Taillard's published generator, machine by machine (EJOR 64, 1993)."""
    times = np.zeros((machines, jobs))
    for machine in range(machines):
        for job in range(jobs):
            seed = 16_807 * (seed % 127_773) - 2_836 * (seed // 127_773)
            seed += LARGEST if seed < 0 else 0
            times[machine, job] = 1 + int(seed / LARGEST * 99)
    return times


def flow_shop(times: Floats, due: Sequence[float] = ()) -> Scenario:
    """A plant of one line with a belt for every machine, and an order for every job; due when the window ends."""
    machines, jobs = times.shape
    made = [
        product(
            f"job-{job}",
            [on_belt(f"belt-{machine}", times[machine, job] + APART_MIN * job) for machine in range(machines)],
            grams=2_000,
            target=PIECES_PER_HOUR,
            cycle=3,
            rest=0,
        )
        for job in range(jobs)
    ]
    departs = due or [float(WEEK_MIN)] * jobs
    return scenario(
        [belt(f"belt-{machine}", places=1_000_000) for machine in range(machines)],
        made,
        [(f"job-{job}", departs[job], 1) for job in range(jobs)],
        mixing=mixers(8),
        minutes=WEEK_MIN,
    )


def makespan(plan: PlantPlan) -> float:
    """From the first piece in to the last out, min."""
    runs = plan.plans[0].runs
    return max(run.last_pack_min for run in runs) - min(run.start_min for run in runs)


def no_wait_span(times: Floats, order: Sequence[int]) -> float:
    """Makespan of an order in which no job waits: each started as early as no machine holds two, written out."""
    free = np.zeros(len(times))
    for job in order:
        entries = np.cumsum(times[:, job]) - times[:, job]
        start = float(np.max(free - entries))
        free = start + entries + times[:, job]
    return float(free[-1])
