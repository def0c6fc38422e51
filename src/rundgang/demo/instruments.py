"""The demo plant's instruments: all of them the simulated plant's."""

from rundgang.core.floor.instruments import SIMULATED, Instruments, MappedNode, Source, signals_of
from rundgang.core.scenario import Scenario

NAMESPACE = 2
"""The first that an OPC UA server gives to its own nodes, behind the standard's and its own (part 3, section 8.2.2)."""


def simulated_instruments(scenario: Scenario) -> Instruments:
    """Everything that can be measured in a plant, told by the simulated one."""
    nodes = (MappedNode(signal=signal, node=f"ns={NAMESPACE};s={signal.path}") for signal in signals_of(scenario))
    return Instruments(sources=(Source(name="Simulated plant", endpoint=SIMULATED, nodes=tuple(nodes)),))
