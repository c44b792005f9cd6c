"""The installation as a graph, made from the decisions, and what is live from what in each state."""

from lodestaff.topology.building import build, normalised
from lodestaff.topology.islands import Island, islands
from lodestaff.topology.model import Conductor, Part, Topology
from lodestaff.topology.settle import State, settle
from lodestaff.topology.states import Answer, Network, answer, standard_states

__all__ = [
    "Answer",
    "Conductor",
    "Island",
    "Network",
    "Part",
    "State",
    "Topology",
    "answer",
    "build",
    "islands",
    "normalised",
    "settle",
    "standard_states",
]
