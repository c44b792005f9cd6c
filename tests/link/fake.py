"""A device on loopback that can be made to misbehave: it speaks Modbus TCP from a list of registers."""

import socket
import struct
import threading
import time

BASE = 40000


class FakeDevice:
    """Serves registers. `twist(request number, function, address)` may return "stall", "close", "garbage",
    "late", "short", "wrong id" or "refuse" to misbehave at a request."""

    def __init__(self, registers, twist=lambda number, function, address: "", late_s=0.6):
        self.registers, self.twist, self.late_s = list(registers), twist, late_s
        self.requests = []
        self._socket = socket.create_server(("127.0.0.1", 0))
        self.port = self._socket.getsockname()[1]
        threading.Thread(target=self._accept, daemon=True).start()

    def close(self):
        self._socket.close()

    def _accept(self):
        while True:
            try:
                peer, _ = self._socket.accept()
            except OSError:
                return
            threading.Thread(target=self._serve, args=(peer,), daemon=True).start()

    def _serve(self, peer):
        with peer:
            while (head := self._receive(peer, 8)) is not None:
                transaction, _, length, unit, function = struct.unpack(">HHHBB", head)
                body = self._receive(peer, length - 2)
                if body is None:
                    return
                address, count = struct.unpack(">HH", body[:4])
                self.requests.append((function, address, count))
                how = self.twist(len(self.requests), function, address)
                if how == "close":
                    return
                if how == "stall":
                    continue
                if how == "late":
                    time.sleep(self.late_s)
                if how == "garbage":
                    peer.sendall(bytes(range(7, 60)))
                    continue
                answer = self._answer(function, address, count, body, how)
                number = transaction + 1 if how == "wrong id" else transaction
                try:
                    peer.sendall(struct.pack(">HHHB", number & 0xFFFF, 0, len(answer) + 1, unit) + answer)
                except OSError:
                    return

    def _answer(self, function, address, count, body, how):
        if how == "refuse":
            return struct.pack(">BB", function | 0x80, 2)
        at = address - BASE
        if at < 0 or at + count > len(self.registers):
            return struct.pack(">BB", function | 0x80, 2)
        if function == 16:
            self.registers[at : at + count] = struct.unpack(f">{count}H", body[5 : 5 + 2 * count])
            return struct.pack(">BHH", 16, address, count)
        sent = self.registers[at : at + count - (how == "short")]
        return struct.pack(f">BB{len(sent)}H", function, 2 * len(sent), *sent)

    @staticmethod
    def _receive(peer, count):
        data = b""
        while len(data) < count:
            try:
                more = peer.recv(count - len(data))
            except OSError:
                return None
            if not more:
                return None
            data += more
        return data
