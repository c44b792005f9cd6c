"""The next standard rating of a supply goes by pack."""

import pytest

from lodestaff.catalogue import load_pack


@pytest.mark.parametrize(
    ("pack", "amps", "size"),
    [
        ("na", 121.0, 125),
        ("na", 175.1, 200),
        ("uk", 96.0, 100),
        ("uk", 121.0, 125),
        ("uk", 162.4, 200),
        ("anz", 70.0, 80),
    ],
)
def test_next_size(pack, amps, size):
    """na: NEC 240.6(A) (from memory); uk and anz: usual service fuses (common practice)."""
    assert load_pack(pack).demand.next_standard_a(amps) == size


@pytest.mark.parametrize("pack", ["uk", "na", "anz"])
def test_ratings_rise_and_end(pack):
    method = load_pack(pack).demand
    assert list(method.standard_a) == sorted(set(method.standard_a))
    assert method.next_standard_a(method.standard_a[-1] + 1) is None
    assert method.standard_source


@pytest.mark.parametrize(
    ("service", "electrode"),
    [("2 AWG", "8 AWG"), ("1/0 AWG", "6 AWG"), ("3/0 AWG", "4 AWG"), ("350 kcmil", "2 AWG")],
)
def test_the_conductor_to_a_services_electrode(service, electrode):
    """Source: NEC table 250.66, copper (from memory)."""
    pack = load_pack("na")
    sizes = {pack.size_words(row[0]): row[0] for row in pack.table("cables").rows}
    found = pack.table("electrode").above(sizes[service], "mm2")
    assert pack.size_words(found) == electrode
