"""A wire to the server that can be cut: what goes through a page's own workers is not held back by a browser that plays offline."""

from __future__ import annotations

import socket
import threading
from contextlib import suppress


class Wire:
    """Passes on everything between a port of its own and the server's, until it is cut."""

    def __init__(self, server_port: int) -> None:
        self._server_port, self._open = server_port, set[socket.socket]()
        self.port = 0
        self.mend()

    def mend(self) -> None:
        """Let everything through, on the same port as before."""
        self._listener = socket.socket()
        self._listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        self._listener.bind(("127.0.0.1", self.port))
        self.port = self._listener.getsockname()[1]
        self._listener.listen()
        threading.Thread(target=self._accept, args=(self._listener,), daemon=True).start()

    def cut(self) -> None:
        """Nothing comes through any more, and what was open is closed."""
        with suppress(OSError):
            self._listener.shutdown(socket.SHUT_RDWR)
        self._listener.close()
        for one in list(self._open):
            with suppress(OSError):
                one.shutdown(socket.SHUT_RDWR)

    def _accept(self, listener: socket.socket) -> None:
        with suppress(OSError):
            while True:
                near, _ = listener.accept()
                far = socket.create_connection(("127.0.0.1", self._server_port))
                self._open |= {near, far}
                for one, other in ((near, far), (far, near)):
                    threading.Thread(target=self._pass, args=(one, other), daemon=True).start()

    def _pass(self, one: socket.socket, other: socket.socket) -> None:
        with suppress(OSError):
            while data := one.recv(65536):
                other.sendall(data)
        with suppress(OSError):
            other.shutdown(socket.SHUT_RDWR)
        self._open.discard(one)
