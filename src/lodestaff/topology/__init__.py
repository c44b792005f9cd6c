"""The installation as a graph, made from the decisions, and what is live from what in each state."""

from lodestaff.topology.build import build
from lodestaff.topology.model import Conductor, Part, Topology
from lodestaff.topology.states import STATES, Answer, Network, State, answer, standard_states

__all__ = [
    "STATES",
    "Answer",
    "Conductor",
    "Network",
    "Part",
    "State",
    "Topology",
    "answer",
    "build",
    "standard_states",
]
