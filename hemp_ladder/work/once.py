"""What the web process asks of the queue while somebody waits for it: each thing once, and again only after a while."""

import time


class Asked:
    """Names that were asked for, each for so many seconds: who waits asks again and again."""

    def __init__(self, patience: float) -> None:
        self._patience = patience
        self._when: dict[str, float] = {}

    def is_new(self, name: str) -> bool:
        """Whether it is to be asked for now; from then on it is not."""
        now = time.monotonic()
        self._when = {known: when for known, when in self._when.items() if now - when <= self._patience}
        if name in self._when:
            return False
        self._when[name] = now
        return True
