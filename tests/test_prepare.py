"""What is compiled after setting up is what a year and an outage use."""

import pytest

from lodestaff.prepare import PARTS


@pytest.mark.parametrize("part", PARTS)
def test_each_part_runs(reckoner, larkmoor, part):
    PARTS[part](reckoner, larkmoor)
