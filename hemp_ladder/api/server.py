"""`python -m hemp_ladder.api.server --port N`: the web application, behind a door that does not wait for ever.

The server library closes idle connections between requests, but waits
without end for one that says its request a letter at a time.
"""

import argparse
import asyncio
from typing import Any

import h11
import uvicorn
from uvicorn.protocols.http.h11_impl import H11Protocol

#: Seconds until the head of a request must be there, and between two pieces of its body.
HEAD_SECONDS, PIECE_SECONDS = 10.0, 30.0


class PatientProtocol(H11Protocol):
    """Closes a connection whose request does not come along."""

    _due: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        self._await(HEAD_SECONDS)

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        state = self.conn.their_state
        if state is h11.SEND_BODY:
            self._await(PIECE_SECONDS)
        elif state is not h11.IDLE:
            self._await(None)
        elif self._due is None:
            # The beginning of a next request on the same connection.
            self._await(HEAD_SECONDS)

    def connection_lost(self, exc: Exception | None) -> None:
        self._await(None)
        super().connection_lost(exc)

    def _await(self, seconds: float | None) -> None:
        if self._due is not None:
            self._due.cancel()
        self._due = None if seconds is None else self.loop.call_later(seconds, self._too_slow)

    def _too_slow(self) -> None:
        if not self.flow.read_paused:
            self.transport.close()
        else:
            # We are the slow ones: the body waits for us.
            self._await(PIECE_SECONDS)


def main() -> None:
    """Serve until it is told to stop."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--port", type=int, required=True)
    uvicorn.run(
        "hemp_ladder.api.app:app",
        host="127.0.0.1",
        port=parser.parse_args().port,
        http=PatientProtocol,
        log_level="warning",
        timeout_graceful_shutdown=2,
    )


if __name__ == "__main__":
    main()
