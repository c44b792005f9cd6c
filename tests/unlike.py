"""Samples as unlike one another as can be, for what takes too long to be asked of all.

No backup, an AC battery behind a gateway, no grid with a generator, three phases, 120/240 V, microinverters,
two units, an array that was there.
"""

UNLIKE = (
    "wendle-row-14",
    "brockle-vicarage",
    "skerry-light-cottage",
    "quern-hall-joinery",
    "juniper-draw-ranch",
    "gannet-point-lodge",
    "ocotillo-wash-centre",
    "cobbler-s-yard-workshop",
)
