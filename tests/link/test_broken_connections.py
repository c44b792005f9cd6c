"""The simulated site goes on answering, whatever is sent to it, and says nothing on standard error."""

import socket
import struct

import pytest

from lodestaff.job import load_job
from lodestaff.link import PlantServer
from lodestaff.link.server import HOST
from lodestaff.plant import Plant, PlantStart
from lodestaff.samples import sample_path

MARKER = b"SunS"


@pytest.fixture(scope="module")
def server():
    with PlantServer(Plant(load_job(sample_path("juniper-draw-ranch")), PlantStart()), speed=0) as server:
        yield server


def asked(server, unit=1, function=3, address=40_000, count=2):
    pdu = struct.pack(">BHH", function, address, count)
    with socket.create_connection((HOST, server.port), 5) as line:
        line.settimeout(5)
        line.sendall(struct.pack(">HHHB", 1, 0, len(pdu) + 1, unit) + pdu)
        return line.recv(300)


def test_unknown_units_and_functions_are_refused_quietly(server, capfd):
    assert asked(server).endswith(MARKER)
    assert asked(server, unit=77)[7:] == b"\x83\x04"
    assert asked(server, unit=0)[7] == 0x83
    assert asked(server, function=99)[8] == 1
    assert asked(server, address=9)[7:] == b"\x83\x02"
    assert capfd.readouterr() == ("", "")


def test_five_hundred_broken_connections(server, capfd):
    begun = struct.pack(">HHHBB", 1, 0, 200, 1, 3)
    held = []
    for number in range(500):
        line = socket.create_connection((HOST, server.port), 5)
        line.sendall(begun[: number % 9] if number % 2 else b"junk" * (number % 7))
        held.append(line) if number % 3 else line.close()
    assert asked(server).endswith(MARKER)
    for line in held:
        line.close()
    assert asked(server).endswith(MARKER)
    assert capfd.readouterr() == ("", "")


def test_the_frequency_is_the_packs(server):
    assert server._images[0].hz == 60
    assert Plant(load_job(sample_path("larkmoor")), PlantStart()).job.pack.hz == 50
