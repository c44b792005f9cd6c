"""Columns of a table of units that form an island, in the order of `Island`'s fields."""

(RATED_KW, RATED_KVA, SURGE_KVA, K1, K2, PV_MAX, FLOOR, TOP, CAPACITY, CHARGE, DISCHARGE, ETA_IN, ETA_OUT,
 TAPER, TAPER_END) = range(15)  # fmt: skip
